<script setup lang="ts">
import type { DeliveryInfo, DeliveryPage, DeliveryState, PackRunDetail } from '../../../core/api/packs'

/** What goes out of a run of a pack, with what was answered, and somebody's word on what did not get through. */
const { run } = defineProps<{ run: PackRunDetail }>()
const emit = defineEmits<{ changed: [] }>()
const me = useMe()
const page = shallowRef<DeliveryPage>()
const problem = ref('')
const state = ref<DeliveryState>()
async function load(more = false): Promise<void> {
  try {
    const from = more ? page.value!.deliveries.length : 0
    const found = await api<DeliveryPage>(`/api/packs/runs/${run.id}/deliveries?from=${from}${state.value ? `&state=${state.value}` : ''}`)
    page.value = more ? { all: found.all, deliveries: [...page.value!.deliveries, ...found.deliveries] } : found
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
watch(
  () => [JSON.stringify(run.counts), state.value],
  () => load(),
  { immediate: true },
)
// a printer goes on when all else is done
const printing = computed(() => !packGrows(run) && run.counts.some(each => each.state === 'sending'))
const { pause, resume } = useIntervalFn(() => emit('changed'), 3000, { immediate: false })
watch(printing, now => (now ? resume() : pause()), { immediate: true })
const words: Record<DeliveryState, string> = {
  ready: t('packRunPage.ready'),
  sending: t('packRunPage.sending'),
  sent: t('packRunPage.sent'),
  refused: t('packRunPage.refused'),
  uncertain: t('packRunPage.uncertain'),
  unaddressed: t('packRunPage.unaddressed'),
  dropped: t('packRunPage.dropped'),
}
const order = Object.keys(words) as DeliveryState[]
const looks: Partial<Record<DeliveryState, string>> = {
  sent: 'text-moss-700 dark:text-moss-300',
  refused: 'text-error',
  uncertain: 'text-warning',
  unaddressed: 'text-warning',
}
const marks: Record<DeliveryInfo['kind'], string> = { mail: 'i-lucide-mail', file: 'i-lucide-folder', print: 'i-lucide-printer' }
const counts = computed(() => [...run.counts].sort((one, other) => order.indexOf(one.state) - order.indexOf(other.state)))
const undecided = (each: DeliveryInfo) => !run.dry && (each.state === 'refused' || each.state === 'uncertain')
async function decide(each: DeliveryInfo, again: boolean): Promise<void> {
  try {
    await api(`/api/packs/deliveries/${each.id}`, { method: 'POST', body: { again } })
    await load()
    emit('changed')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
</script>

<template>
  <section class="mt-6" :aria-label="t('packRunPage.whatGoesOut')">
    <div class="mb-1.5 flex items-center gap-3">
      <h2 class="font-semibold">{{ run.dry ? t('packRunPage.whatWouldGoOut') : t('packRunPage.whatGoesOut') }}</h2>
      <UButton
        v-for="each in counts"
        :key="each.state"
        size="xs"
        :variant="state === each.state ? 'solid' : 'outline'"
        color="neutral"
        :aria-pressed="state === each.state"
        @click="state = state === each.state ? undefined : each.state"
        >{{ grouped(each.count) }} {{ words[each.state] }}</UButton
      >
      <NuxtLink v-if="me.administrator" to="/outbox" class="ml-auto text-petrol-700 hover:underline dark:text-petrol-300">{{
        t('packRunPage.toTheOutbox')
      }}</NuxtLink>
    </div>
    <p v-if="problem" class="mb-2 text-error" role="alert">{{ tell(problem) }}</p>
    <table
      v-if="page"
      class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default"
      data-deliveries
    >
      <tbody>
        <tr
          v-for="(each, index) in page.deliveries"
          :key="each.id"
          class="align-top"
          :class="index ? '[&>td]:border-t [&>td]:border-default' : ''"
          :data-delivery="each.state"
        >
          <td class="px-4 py-1.5">
            <UIcon :name="marks[each.kind]" class="mr-2 inline-block size-4 align-text-bottom text-muted" />{{ each.to.join(', ') }}
          </td>
          <td class="px-3 py-1.5 text-muted">{{ each.about }}</td>
          <td class="px-3 py-1.5 text-muted">{{ each.files.join(', ') }}</td>
          <td class="px-3 py-1.5">
            <span :class="looks[each.state] ?? 'text-muted'">{{ words[each.state] }}</span>
            <p v-if="each.said && each.state !== 'sent'" class="max-w-md text-xs text-muted">{{ tell(each.said) }}</p>
          </td>
          <td class="whitespace-nowrap px-4 py-1 text-right">
            <template v-if="undecided(each)">
              <UButton size="xs" variant="outline" color="neutral" @click="decide(each, true)">{{ t('packRunPage.sendOnceMore') }}</UButton>
              <UButton size="xs" variant="ghost" color="neutral" class="ml-1" @click="decide(each, false)">{{
                t('packRunPage.letItBe')
              }}</UButton>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <UButton v-if="page && page.deliveries.length < page.all" size="sm" variant="ghost" color="neutral" class="mt-2" @click="load(true)">{{
      t('outboxPage.more', { more: grouped(page.all - page.deliveries.length) })
    }}</UButton>
  </section>
</template>
