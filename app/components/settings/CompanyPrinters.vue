<script setup lang="ts">
import equal from 'fast-deep-equal'
import type { PrinterSettings } from '../../../core/pack/outside'

/** The printers that packs are printed on. */
const kept = shallowRef<{ version: number; own: PrinterSettings[] }>()
const printers = ref<PrinterSettings[]>([])
const problem = ref('')
const says = ref<Record<string, string>>({})
const toast = useToast()
async function load(): Promise<void> {
  try {
    kept.value = await api<{ version: number; own: PrinterSettings[] }>('/api/printers')
    printers.value = structuredClone(kept.value.own)
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
const changed = computed(() => !!kept.value && !equal(kept.value.own, printers.value))
async function keep(): Promise<void> {
  try {
    await api('/api/printers', { method: 'PUT', body: { printers: printers.value, basedOn: kept.value!.version } })
    toast.add({ title: t('settingsPage.kept'), icon: 'i-lucide-check', color: 'success' })
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
async function ask({ id, address }: PrinterSettings): Promise<void> {
  try {
    const { name, state, reasons } = await api<{ name: string; state: string; reasons: string[] }>('/api/printers/test', {
      method: 'POST',
      body: { address },
    })
    const words: Record<string, string> = {
      idle: t('settingsPage.printerIdle'),
      processing: t('settingsPage.printerProcessing'),
      stopped: t('settingsPage.printerStopped'),
    }
    says.value[id] = [name, words[state], ...reasons].filter(Boolean).join(' · ')
  } catch (error) {
    says.value[id] = tell((error as Error).message)
  }
}
const add = () => printers.value.push({ id: `printer-${Date.now().toString(36)}`, name: '', address: 'ipp://' })
</script>

<template>
  <SettingsCard
    v-if="kept"
    :name="t('settingsPage.printers')"
    :problem="problem"
    :changed="changed"
    data-printers
    @back="load"
    @keep="keep"
  >
    <template #about
      >{{ t('settingsPage.besideThese') }}
      <NuxtLink to="/printer" class="text-petrol-700 underline dark:text-petrol-300">{{
        t('settingsPage.standInPrinter')
      }}</NuxtLink></template
    >
    <ul v-if="printers.length" class="mb-3 space-y-2">
      <li v-for="(each, at) in printers" :key="each.id" class="flex items-center gap-2">
        <UInput
          v-model="each.name"
          size="sm"
          class="w-56"
          :placeholder="t('settingsPage.printerName')"
          :aria-label="t('settingsPage.printerName')"
        />
        <UInput v-model="each.address" size="sm" class="w-96 font-mono" :aria-label="t('settingsPage.printerAddress')" />
        <UButton size="sm" variant="outline" color="neutral" @click="ask(each)">{{ t('settingsPage.askIt') }}</UButton>
        <span class="min-w-0 grow truncate text-muted" role="status">{{ says[each.id] }}</span>
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('common.remove', { name: each.name })"
          @click="printers.splice(at, 1)"
        />
      </li>
    </ul>
    <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-plus" @click="add">{{ t('settingsPage.addPrinter') }}</UButton>
  </SettingsCard>
</template>
