import { addingProgress } from '../../sources/copies/addCopy'

/** How far a copy is that is being made; nothing where none of that name is. */
export default route((context, event) => ({ progress: addingProgress(context, askedOf(event).name ?? '') }))
