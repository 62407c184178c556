<script setup lang="ts">
import type { Page } from '../../core/compose/page'
import { drawPage } from '../../core/draw/canvas'
import { type Reading, readingOf } from '../../core/draw/reading'
import { type Area, changedArea } from '../../core/draw/changes'

const { page, zoom } = defineProps<{ page: Page | undefined; width: number; height: number; zoom: number }>()
const canvas = useTemplateRef('canvas')

/** Text of the page for screen readers, find and copy: as its tagged PDF is read, or line by line where it has no tags. */
const text = ref('')
const reading = shallowRef<Reading[]>()
function read(): void {
  reading.value = page && readingOf(toRaw(page))
  text.value = reading.value ? '' : readingText()
}
function readingText(): string {
  const lines: { y: number; words: { x: number; text: string }[] }[] = []
  for (const item of page?.items ?? []) {
    if (item.kind === 'figure') lines.push({ y: item.y, words: [{ x: item.x, text: item.alternative }] })
    if (item.kind !== 'text' || !item.text) continue
    const line = lines.find(each => Math.abs(each.y - item.y) < 2)
    if (line) line.words.push(item)
    else lines.push({ y: item.y, words: [item] })
  }
  return lines
    .sort((a, b) => a.y - b.y)
    .map(line =>
      line.words
        .sort((a, b) => a.x - b.x)
        .map(word => word.text)
        .join('  '),
    )
    .join('\n')
}
/** The text follows a moment after the picture, which is what the author waits for. */
let later: ReturnType<typeof setTimeout> | undefined
function tell(): void {
  clearTimeout(later)
  later = setTimeout(read, 40)
}
onBeforeUnmount(() => clearTimeout(later))

/** A page that is not in view is drawn once those in view are painted. */
let waiting: ReturnType<typeof setTimeout> | undefined
function show(): void {
  clearTimeout(waiting)
  const place = canvas.value?.getBoundingClientRect()
  if (place && place.top < window.innerHeight - 60 && place.bottom > 60) draw()
  else waiting = setTimeout(() => draw(), 60)
  tell()
}
onBeforeUnmount(() => clearTimeout(waiting))

/** What stands on the canvas. */
let drawn: { page: Page; scale: number } | undefined

/** The part that has to be drawn anew, its edges between pixels; all of it where much has changed. */
function changed(scale: number): Area | 'all' | 'nothing' {
  if (!drawn || drawn.scale !== scale || drawn.page.width !== page!.width || drawn.page.height !== page!.height) return 'all'
  const area = changedArea(drawn.page, page!)
  if (!area) return 'nothing'
  const [left, top] = [Math.floor(area.x * scale) / scale, Math.floor(area.y * scale) / scale]
  const [right, bottom] = [Math.ceil((area.x + area.width) * scale) / scale, Math.ceil((area.y + area.height) * scale) / scale]
  return (right - left) * (bottom - top) > 0.7 * page!.width * page!.height
    ? 'all'
    : { x: left, y: top, width: right - left, height: bottom - top }
}

function draw(whole = false): void {
  const target = canvas.value
  if (!target || !page) return
  const scale = zoom * (window.devicePixelRatio || 1)
  const [width, height] = [Math.round(page.width * scale), Math.round(page.height * scale)]
  const sized = target.width === width && target.height === height
  if (!sized) {
    target.width = width
    target.height = height
  }
  const part = whole || !sized ? 'all' : changed(scale)
  drawn = { page: toRaw(page), scale }
  if (part === 'nothing') return
  const pen = target.getContext('2d', { alpha: false })!
  pen.setTransform(scale, 0, 0, scale, 0, 0)
  // no kerning, no ligatures: the widths are those that the page was composed with
  pen.fontKerning = 'none'
  pen.textRendering = 'optimizeSpeed'
  drawPage(pen, page, data => bitmapOf(data, () => draw(true)), part === 'all' ? undefined : part)
}

onMounted(async () => {
  await paperFonts()
  draw(true)
  read()
})
watch(() => [page, zoom], show, { flush: 'post' })
</script>

<template>
  <div class="relative bg-white" :style="{ width: `${width * zoom}px`, height: `${height * zoom}px` }">
    <canvas ref="canvas" class="absolute inset-0 size-full" aria-hidden="true" />
    <div v-if="reading" class="sr-only" data-page-text :lang="page?.language">
      <template v-for="(each, at) in reading" :key="at">
        <table v-if="each.is === 'table'">
          <tbody>
            <tr v-for="(row, place) in each.rows" :key="place">
              <component
                :is="cell.head ? 'th' : 'td'"
                v-for="(cell, column) in row"
                :key="column"
                :colspan="cell.span > 1 ? cell.span : undefined"
                :scope="cell.head === 'column' ? 'col' : cell.head === 'row' ? 'row' : undefined"
                >{{ `${cell.text} ` }}</component
              >
            </tr>
          </tbody>
        </table>
        <h2 v-else-if="each.is === 'heading'">{{ `${each.text} ` }}</h2>
        <p v-else-if="each.is === 'figure'" role="img" :aria-label="each.text">{{ `${each.text} ` }}</p>
        <p v-else>{{ `${each.text} ` }}</p>
      </template>
    </div>
    <pre v-else class="sr-only" data-page-text>{{ text }}</pre>
  </div>
</template>
