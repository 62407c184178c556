/** What may be written where: all of it is the core's, named here for the views. */
export { fieldFormula, levelOfBlock, scopeOfBlock } from '../../core/model/blockScope'
export { type Choice, choicesAt, proposalsAt } from '../../core/model/proposals'
/** A report's levels and own tables, for a definition that is only tried. */
export { reportModel as modelOf } from '../../core/model/model'
