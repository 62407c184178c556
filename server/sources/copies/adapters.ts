import type { Adapter } from './adapter'
import { mariadb } from './mariadb'

/** Databases that can be copied: a line for each. */
const adapters: readonly Adapter[] = [mariadb]

/** The adapter of an address, by how it begins. */
export const adapterOf = (address: string): Adapter | undefined =>
  adapters.find(each => each.schemes.some(scheme => address.trim().toLowerCase().startsWith(scheme)))
export const adapterNamed = (kind: string): Adapter | undefined => adapters.find(each => each.kind === kind)
