import { describe, expect, it } from 'vitest'
import type { ValueType } from '../value/value'
import { changesOf } from './again'

const columns = (...list: [string, ValueType][]) => list.map(([name, type]) => ({ name, type, databaseType: type, required: false }))

describe('what a file changes of the table whose place it takes', () => {
  const before = { name: 'orders', columns: columns(['orders_line', 'number'], ['number', 'text'], ['amount', 'number'], ['day', 'date']) }
  it.each([
    ['nothing', columns(['number', 'text'], ['amount', 'number'], ['day', 'date']), []],
    ['a new column', columns(['number', 'text'], ['amount', 'number'], ['day', 'date'], ['note', 'text']), ['new: “note”']],
    ['columns that are gone', columns(['number', 'text']), ['gone: “amount”, “day”']],
    [
      'another type',
      columns(['number', 'number'], ['amount', 'text'], ['day', 'moment']),
      ['“number” was text and is a number', '“amount” was a number and is text', '“day” was a date and is a date with a time'],
    ],
    [
      'a line that is not that of the file',
      columns(['number', 'text'], ['amount', 'number'], ['day', 'date'], ['ship_line', 'text']),
      ['new: “ship_line”'],
    ],
    ['a renamed column', columns(['number', 'text'], ['total', 'number'], ['day', 'date']), ['new: “total”', 'gone: “amount”']],
  ])('%s', (_, after, told) => expect(changesOf(before, after)).toEqual(told))
})
