import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ParameterDefinition } from '../definition/parameters'
import { joinSeveral, readAnswers, splitSeveral } from './answers'
import { fileName } from './fileName'
import { narrowingOrder, settleAnswers } from './narrowing'

const choice = (name: string, kind: 'choice' | 'choices', ...above: string[]): ParameterDefinition => ({
  name,
  label: name[0]!.toUpperCase() + name.slice(1),
  kind,
  required: false,
  choices: { table: `${name}s`, value: 'id', label: 'name', narrowedBy: above.map(each => ({ parameter: each, column: `${each}_id` })) },
})
const chain = [choice('customer', 'choice', 'town'), choice('town', 'choices', 'region'), choice('region', 'choice')]

describe('narrowing', () => {
  it('orders parameters below those that narrow them', () => {
    expect(narrowingOrder(chain).map(each => each.name)).toEqual(['region', 'town', 'customer'])
  })

  it('in a circle is refused with a sentence', () => {
    const circle = [choice('a', 'choice', 'c'), choice('b', 'choice', 'a'), choice('c', 'choice', 'b')]
    expect(() => narrowingOrder(circle)).toThrow(
      'A would be narrowed by C would be narrowed by B would be narrowed by A: that goes in a circle; take one of them out.',
    )
    expect(() => narrowingOrder([choice('a', 'choice', 'a')])).toThrow('goes in a circle')
  })

  it('never leaves an answer that is not among its choices, keeps those that are, and says what it lets go', async () => {
    const row = fc.record({
      id: fc.integer({ min: 1, max: 6 }).map(String),
      region_id: fc.integer({ min: 1, max: 3 }).map(String),
      town_id: fc.integer({ min: 1, max: 6 }).map(String),
    })
    const tables = fc.record({
      regions: fc.array(row, { maxLength: 3 }),
      towns: fc.array(row, { maxLength: 8 }),
      customers: fc.array(row, { maxLength: 12 }),
    })
    const id = fc.integer({ min: 0, max: 7 }).map(String)
    const given = fc.record({
      region: fc.option(id, { nil: '' }),
      town: fc.array(id, { maxLength: 4 }).map(joinSeveral),
      customer: fc.option(id, { nil: undefined }),
    })
    await fc.assert(
      fc.asyncProperty(tables, given, async (data, answers) => {
        const { answers: settled, dropped } = await settleAnswers(chain, answers, async (parameter, values, narrowing) => {
          const left = data[parameter.choices!.table as 'towns'].filter(each =>
            narrowing.every(({ column, values: wanted }) => wanted.includes(each[column as 'region_id'])),
          )
          return values.filter(value => left.some(each => each.id === value))
        })
        const regions = data.regions.map(each => each.id)
        const region = settled.region || undefined
        if (region) expect(regions).toContain(region)
        const open = data.towns.filter(each => !region || each.region_id === region).map(each => each.id)
        const towns = splitSeveral(settled.town ?? '')
        for (const town of towns) expect(open).toContain(town)
        // what was valid is kept
        expect(towns).toEqual(splitSeveral(answers.town).filter(town => open.includes(town)))
        const customers = data.customers.filter(each => !towns.length || towns.includes(each.town_id)).map(each => each.id)
        if (settled.customer) expect(customers).toContain(settled.customer)
        const gone = dropped.flatMap(each => each.values.map(value => `${each.parameter}:${value}`))
        const before = [
          answers.region && `region:${answers.region}`,
          ...splitSeveral(answers.town).map(each => `town:${each}`),
          answers.customer && `customer:${answers.customer}`,
        ].filter(Boolean)
        const after = [
          region && `region:${region}`,
          ...towns.map(each => `town:${each}`),
          settled.customer && `customer:${settled.customer}`,
        ].filter(Boolean)
        expect(before.filter(each => !after.includes(each))).toEqual(gone)
      }),
    )
  })
})

it('several answers in one text come apart again, whatever they hold', () => {
  const value = fc.string({ minLength: 1, maxLength: 8 }).filter(text => text.trim() !== '')
  fc.assert(
    fc.property(fc.array(value, { maxLength: 5 }), values => {
      expect(splitSeveral(joinSeveral(values))).toEqual(values)
    }),
  )
})

describe('answers of each kind', () => {
  const periods = Array.from({ length: 12 }, (_, index) => ({
    code: `2026-P${String(index + 1).padStart(2, '0')}`,
    year: '2026/27',
    number: index + 1,
    name: `2026-${String(index + 4).padStart(2, '0')}`,
    start: 20544 + index * 30,
    end: 20573 + index * 30,
    adjustment: false,
  }))
  const around = { today: 20757, calendar: { periods }, labels: { who: { 'C-1': 'Doca Verde', 'C-2': 'Leme, Lda.' } } }
  const of = (kind: ParameterDefinition['kind'], more: Partial<ParameterDefinition> = {}): ParameterDefinition => ({
    name: 'who',
    label: 'Who',
    kind,
    required: false,
    ...more,
  })
  const read = (parameter: ParameterDefinition, text?: string) => {
    const { values, problems } = readAnswers([parameter], text === undefined ? {} : { who: text }, around)
    return problems[0]?.sentence ?? values
  }
  it.each([
    [of('whole'), '12', { who: { units: 12, scale: 0 } }],
    [of('whole'), '12.5', '“12.5” is no whole number for Who.'],
    [of('decimal'), '12.50', { who: { units: 1250, scale: 2 } }],
    [of('dates'), '2026-10-01..2026-10-31', { 'who.from': 20727, 'who.to': 20757, 'who.label': '1 Oct 2026 – 31 Oct 2026' }],
    [of('dates'), '2026-10-31..2026-10-01', 'Who ends before it begins; swap the two dates.'],
    [of('dates'), '', { 'who.from': null, 'who.to': null, 'who.label': 'all' }],
    [of('dates'), 'soon', '“soon” is no date range (written like 2026-10-01..2026-10-31) for Who.'],
    [of('period'), '2026-p07', { who: '2026-P07', 'who.label': expect.stringContaining('(7 of 2026/27)') as string }],
    [of('period'), '2026-10', '“2026-10” is no period of the fiscal calendar (written like 2026-P07) for Who.'],
    [of('period', { default: 'period(today())' }), undefined, { who: '2026-P08', 'who.label': expect.any(String) as string }],
    [of('choices'), 'C-1,C-2', { who: ['C-1', 'C-2'], 'who.label': 'Doca Verde and Leme, Lda.' }],
    [of('choices'), '', { who: null, 'who.label': 'all' }],
    [
      of('choice', {
        choices: {
          table: '',
          value: '',
          label: '',
          list: [
            { value: 'a', label: 'Alpha' },
            { value: 'b', label: 'Beta' },
          ],
        },
      }),
      'a',
      { who: 'a', 'who.label': 'Alpha' },
    ],
    [
      of('choice', { choices: { table: '', value: '', label: '', list: [{ value: 'a', label: 'Alpha' }] } }),
      'c',
      '“c” is no choice of Who; there are a.',
    ],
    [of('boolean'), 'yes', { who: true }],
    [of('boolean'), 'perhaps', '“perhaps” is no yes or no for Who.'],
    [of('text', { hidden: true, default: '"fixed"' }), undefined, { who: 'fixed' }],
    [of('text', { hidden: true }), 'x', '“who” is not asked and cannot be set; it takes its default.'],
    [
      of('date', { default: 'monthStrt(today())' }),
      undefined,
      'The default of Who cannot be worked out: There is no function “monthStrt”; the nearest is “monthStart”.',
    ],
    [of('date', { default: '5' }), undefined, 'The default of Who, 5, is no date (written like 2026-10-31).'],
  ])('%j given %j', (parameter, text, expected) => {
    expect(read(parameter, text)).toEqual(expected)
  })
})

it.each([
  ['Invoice register', { period: '2026-P07', customer: 'C-0001,C-0002' }, 'Invoice register 2026-P07 C-0001 C-0002'],
  ['Item sales', { dates: '2026-10-01..2026-10-31' }, 'Item sales 2026-10-01 to 2026-10-31'],
  ['A/B: "best" <of> 50 %?*', { name: '../../etc/passwd\n' }, 'A B best of 50 % to to etc passwd'],
  ['...', {}, 'Report'],
] as [string, Record<string, string>, string][])('a file of “%s” with %j is called “%s”', (report, answers, name) => {
  expect(
    fileName(
      report,
      Object.keys(answers).map(each => ({ name: each, label: each, kind: 'text', required: false })),
      answers,
    ),
  ).toBe(name)
})
