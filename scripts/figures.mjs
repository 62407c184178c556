// The figures of all demo reports, to compare a program before and after a change. It asks a running server over HTTP, so it knows
// nothing of the code inside.
//   node scripts/figures.mjs record  --url http://127.0.0.1:4780 --file before.json    runs every report with twenty sets of answers
// node scripts/figures.mjs compare --url http://127.0.0.1:4780 --file before.json    runs the same answers again, and names each run that
// differs
// --sets 20 and --only "Sales invoice" are its other options.
import { createHash } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    url: { type: 'string', default: 'http://127.0.0.1:4780' },
    file: { type: 'string', default: 'figures.json' },
    sets: { type: 'string', default: '20' },
    only: { type: 'string' },
  },
})

async function ask(path, body) {
  const response = await fetch(
    new URL(path, values.url),
    body && {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: new URL(values.url).origin },
      body: JSON.stringify(body),
    },
  )
  return response.json()
}

/** The same chances at every record: a small generator of its own for each report (mulberry32). */
function chances(seed) {
  let state = createHash('sha256').update(seed).digest().readUInt32LE(0)
  return below => {
    state = (state + 0x6d2b79f5) | 0
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return Math.floor((((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296) * below)
  }
}

const two = number => String(number).padStart(2, '0')

/** One set of answers: each parameter is left to its default, or answered by something that its kind allows. */
async function answersOf(report, parameters, calendar, chance) {
  const answers = {}
  const day = () => `${2024 + chance(3)}-${two(1 + chance(10))}-${two(1 + chance(28))}`
  for (const { name, kind, choicesInAll, choices, required } of parameters) {
    if (chance(10) < 3) continue
    if (kind === 'month') answers[name] = `${2024 + chance(3)}-${two(1 + chance(10))}`
    else if (kind === 'date') answers[name] = day()
    else if (kind === 'dates') answers[name] = [day(), day()].sort().join('..')
    else if (kind === 'period' && calendar?.periods.length) answers[name] = calendar.periods[chance(calendar.periods.length)].code
    else if (kind === 'boolean') answers[name] = chance(2) ? 'yes' : 'no'
    else if (kind === 'whole') answers[name] = String(1 + chance(60))
    else if (choices && choicesInAll) {
      const found = await ask('/api/choices', { report, answers, parameter: name })
      const list = found.choices ?? []
      if (!list.length) continue
      const several = kind === 'choices' ? 1 + chance(3) : 1
      const chosen = new Set(Array.from({ length: several }, () => list[chance(list.length)].value))
      answers[name] = [...chosen].map(value => (/[",]|^\s|\s$/.test(value) ? `"${value.replaceAll('"', '""')}"` : value)).join(',')
    } else if (!required && chance(3) === 0) answers[name] = ''
  }
  return answers
}

/** All that a reader sees of a run: the texts of its pages in order with their places, its tie-outs, and its rows. */
async function figuresOf(report, answers, layout) {
  const started = await ask('/api/runs', { report, answers, ...(layout ? { layout } : {}) })
  if (!started.id) return { refused: started.sentences ?? [started.message] }
  let state = { state: 'running', pages: 0 }
  while (state.state === 'running') state = await ask(`/api/runs/${started.id}?wait=1&seen=0&pages=${state.pages}`)
  const pages = []
  for (let from = 0; from < state.pages; from += 20)
    pages.push(...(await ask(`/api/runs/${started.id}/pages?from=${from}&to=${from + 20}`)))
  const round = number => Math.round(number * 100) / 100
  const texts = pages.map(page =>
    page.items.filter(item => item.kind === 'text' && item.text).map(item => `${item.text}@${round(item.x)},${round(item.y)}`),
  )
  const file = await fetch(new URL(`/api/runs/${started.id}/file?format=json`, values.url))
  const rows = file.ok
    ? createHash('sha256')
        .update(Buffer.from(await file.arrayBuffer()))
        .digest('hex')
    : `refused: ${file.status}`
  return {
    state: state.state,
    sentences: state.sentences,
    rows: state.rows,
    tieOuts: state.tieOuts,
    outline: state.outline,
    pages: pages.length,
    file: rows,
    text: createHash('sha256')
      .update(withoutTime(JSON.stringify(texts)))
      .digest('hex'),
    // the words of the first pages are kept, so that a difference can be read
    first: texts.slice(0, 3),
  }
}

/** The time printed differs from run to run; everything else must not. */
const withoutTime = text => text.replace(/\d{1,2} \p{L}+\.? \d{4}, \d{2}:\d{2}/gu, 'TIME')

const library = await ask('/api/library')
const reports = library
  .flatMap(shelf => shelf.reports)
  .filter(each => each.published !== null && (!values.only || each.name === values.only))

if (positionals[0] === 'record') {
  const [source] = await ask('/api/sources')
  const { calendar } = await ask(`/api/sources/${source.id}/calendar`)
  const found = []
  for (const { id, name } of reports) {
    const chance = chances(name)
    const parameters = await ask(`/api/params?report=${id}`)
    for (let set = 0; set < Number(values.sets); set++) {
      const answers = set === 0 ? {} : await answersOf(id, parameters, calendar, chance)
      found.push({ name, answers, figures: await figuresOf(id, answers) })
    }
    console.log(
      `${name}: ${found
        .filter(each => each.name === name)
        .map(each => each.figures.pages ?? '–')
        .join(' ')}`,
    )
  }
  writeFileSync(values.file, JSON.stringify(found))
  console.log(`${found.length} runs of ${reports.length} reports are kept in ${values.file}.`)
} else if (positionals[0] === 'compare') {
  const before = JSON.parse(readFileSync(values.file, 'utf8')).filter(each => !values.only || each.name === values.only)
  let differing = 0
  for (const { name, answers, figures } of before) {
    const report = reports.find(each => each.name === name)
    const now = report ? await figuresOf(report.id, answers) : { refused: ['The report is not there.'] }
    const [was, is] = [figures, now].map(each => withoutTime(JSON.stringify(each)))
    if (was === is) continue
    differing++
    const at = [...was].findIndex((letter, index) => letter !== is[index])
    console.log(
      `${name} ${JSON.stringify(answers)} differs:\n  before …${was.slice(Math.max(0, at - 80), at + 160)}\n  now    ` +
        `…${is.slice(Math.max(0, at - 80), at + 160)}`,
    )
  }
  console.log(`${before.length - differing} of ${before.length} runs are the same, ${differing} differ.`)
  process.exit(differing ? 1 : 0)
} else {
  console.error(
    'Write: node scripts/figures.mjs record|compare [--url http://127.0.0.1:4780] [--file figures.json] [--sets 20] [--only "report"]',
  )
  process.exit(2)
}
