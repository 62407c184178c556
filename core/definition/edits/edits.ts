/** All edits of a report by their names, as remedies, commands and the sheet's hooks call them: definition → definition. */
export * from '../names'
export * from '../walk'
export * from './dataSets'
export * from './layout'
export * from './levels'
export * from './parameters'
export * from './table'
export { setStatement } from './statement'
