<script setup lang="ts">
import type { Box } from '../../core/compose/page'

/** Over a page of a run: what is printed says itself under the pointer, and is followed back by a click, or by arrows and Enter. */
const { boxes, zoom, traced } = defineProps<{ boxes: readonly Box[]; zoom: number; traced?: Box | undefined }>()
const emit = defineEmits<{ trace: [box: Box] }>()
const surface = useTemplateRef('surface')
const looked = shallowRef<Box>()
const shown = computed(() => looked.value ?? traced)

/** The innermost box at a place of the page, in points: the smallest, where several lie on one another. */
function boxAt(event: MouseEvent): Box | undefined {
  const area = surface.value!.getBoundingClientRect()
  const [x, y] = [(event.clientX - area.left) / zoom, (event.clientY - area.top) / zoom]
  let best: Box | undefined
  for (const box of boxes)
    if (x >= box.x && x <= box.x + box.width && y >= box.y && y <= box.y + box.height)
      if (!best || box.width * box.height < best.width * best.height) best = box
  return best
}
function pick(event: MouseEvent): void {
  const box = boxAt(event)
  if (box) emit('trace', box)
}

const middle = (box: Box) => [box.x + box.width / 2, box.y + box.height / 2] as const
/** The nearest box in a direction: what is off to the side counts three times. */
function step(dx: number, dy: number): void {
  const from = shown.value ? middle(shown.value) : ([0, 0] as const)
  let [best, least] = [looked.value, Infinity]
  for (const box of boxes) {
    const [x, y] = middle(box)
    const ahead = (x - from[0]) * dx + (y - from[1]) * dy
    if (ahead < 1) continue
    const far = ahead + 3 * Math.abs((x - from[0]) * dy + (y - from[1]) * dx)
    if (far < least) [best, least] = [box, far]
  }
  looked.value = best
}
const steps: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
function press(event: KeyboardEvent): void {
  const by = steps[event.key]
  if (by) step(...by)
  else if (event.key === 'Enter' && shown.value) emit('trace', shown.value)
  else return
  event.preventDefault()
}
</script>

<template>
  <div
    ref="surface"
    class="absolute inset-0 outline-offset-2"
    :class="looked ? 'cursor-pointer' : ''"
    tabindex="0"
    role="application"
    :aria-label="t('pageFigures.figuresOfThisPageArrows')"
    :title="looked?.label"
    data-figures
    @mousemove="looked = boxAt($event)"
    @mouseleave="looked = undefined"
    @blur="looked = undefined"
    @click="pick"
    @keydown="press"
  >
    <span
      v-for="(box, at) in [traced, looked].filter(each => each !== undefined)"
      :key="at"
      class="pointer-events-none absolute rounded-[1px]"
      :class="box === traced ? 'ring-2 ring-apricot-500' : 'ring-1 ring-petrol-500'"
      :style="{ left: `${box.x * zoom}px`, top: `${box.y * zoom}px`, width: `${box.width * zoom}px`, height: `${box.height * zoom}px` }"
    />
    <span class="sr-only" aria-live="polite">{{ looked?.label }}</span>
  </div>
</template>
