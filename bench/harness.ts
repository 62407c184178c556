import { existsSync, mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { openEstante } from '../server/estante'

export const { values } = parseArgs({ options: { scale: { type: 'string', default: '40' }, only: { type: 'string' } } })
export const scale = Number(values.scale)
export const root = process.env.ESTANTE_ROOT!
export const table: { what: string; measured: string; limit: string; reached: boolean | undefined }[] = []
export const note = (what: string, measured: string, limit: string, reached?: boolean) => {
  table.push({ what, measured, limit, reached })
  console.log(`${what}: ${measured} (${limit})`)
}
export const median = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1]!
export const ms = (value: number) => `${value < 10 ? value.toFixed(1) : Math.round(value).toLocaleString('en')} ms`

/** A data folder with the company of a size, made once and kept. */
export async function company(size: number): Promise<string> {
  const folder = join(root, '.build', `bench-data-${size}`)
  if (!existsSync(join(folder, 'made'))) {
    rmSync(folder, { recursive: true, force: true })
    console.log(`Making the company at scale ${size} …`)
    const began = performance.now()
    await (await openEstante({ folder, scale: size })).close()
    mkdirSync(join(folder, 'made'))
    note(
      `first start, company at scale ${size}`,
      ms(performance.now() - began),
      size === 1 ? '≤ 30 s' : '',
      size === 1 ? performance.now() - began < 30000 : undefined,
    )
  }
  return folder
}
