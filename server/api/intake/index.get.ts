import { takingProgress } from '../../sources/files/addFiles'

/** How far files are that are being taken in; nothing where none are, of a source of that name. */
export default route((context, event) => ({ progress: takingProgress(context, askedOf(event).name ?? '') }))
