import { registerCompany } from './demo/source'

// What ships with the program beside itself: a line for each.
registerCompany()

/** The server takes this file as a plug-in of its own; all is done once it is read. */
export default function plugins(): void {}
