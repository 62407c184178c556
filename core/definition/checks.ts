import { array, number, object, type Schema, string } from 'yup'
import { recordOf } from '../value/checking'

/** a name by which something is looked up: none that every object has by itself */
export const name = string()
  .strict()
  .required()
  .max(200)
  .test(
    'own',
    ({ path }) => `${path} is a name that cannot be used; choose another`,
    value => !(String(value) in {}),
  )
export const plain = string().strict().max(100_000)
/** a text of a cell, a panel or a title, with values in it */
export const words = string().strict().max(20_000)
export const text = plain.defined()
export const points = number().strict().required().min(-10_000).max(10_000)
export const pairs = array(object({ from: name, to: name }).noUnknown())
  .required()
  .defined()
export const identifier = name.matches(/^[\p{L}_][\p{L}\p{N}_]*$/u, ({ path }) => `${path} must be one word of letters, digits and _`)

export const formula = text.max(4000)
export const formulas = array(formula).required()

export const hex = /^#[0-9a-fA-F]{6}$/
export const hexFault = ({ path }: { path: string }) => `${path} must be a colour like #0f4c5c`
export const rule = plain.max(4000)
export const colour = string().strict().required().matches(hex, hexFault)
export const record = (inner: Schema): Schema => recordOf(inner)
export const codes = array(name)
export const count = (most: number) => number().strict().integer().min(0).max(most)
