<script setup lang="ts">
/** Letters that would have gone out, as they would arrive: as long as no mail server is named, all of them are here. */
interface Listed {
  id: string
  at: string
  from: string
  to: string[]
  subject: string
  files: string[]
}
interface Letter {
  at: string
  sender: string
  replyTo?: string
  to: string[]
  subject: string
  messageId: string
  text: string
  html?: string
  files: { name: string; type: string; size: number }[]
}
useHead({ title: t('outboxPage.outboxEstante') })
const list = shallowRef<{ all: number; letters: Listed[] }>()
const chosen = ref('')
const letter = shallowRef<Letter>()
const problem = ref('')
async function load(more = false): Promise<void> {
  try {
    const found = await api<{ all: number; letters: Listed[] }>(`/api/outbox?from=${more ? list.value!.letters.length : 0}`)
    list.value = more ? { all: found.all, letters: [...list.value!.letters, ...found.letters] } : found
    chosen.value ||= found.letters[0]?.id ?? ''
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
watch(chosen, async id => {
  if (!id) return
  letter.value = await api<Letter>(`/api/outbox/${id}`).catch((error: Error) => void (problem.value = error.message))
})
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar home
      ><UButton
        size="sm"
        variant="outline"
        color="neutral"
        icon="i-lucide-refresh-cw"
        :aria-label="t('outboxPage.lookAgain')"
        @click="load()"
    /></TopBar>
    <Notice v-if="problem" :text="problem" kind="error" />
    <div class="flex shrink-0 items-baseline gap-3 border-b border-default px-4 py-2">
      <h1 class="font-display text-lg font-semibold">{{ t('outboxPage.outbox') }}</h1>
      <p class="text-sm text-muted">{{ t('outboxPage.lettersStayHere') }}</p>
    </div>
    <p v-if="list && !list.letters.length" class="desk grow p-8 text-sm text-muted">{{ t('outboxPage.noLetterYet') }}</p>
    <div v-else-if="list" class="flex min-h-0 grow">
      <nav class="w-96 shrink-0 overflow-auto border-r border-default text-sm" :aria-label="t('outboxPage.letters')">
        <button
          v-for="each in list.letters"
          :key="each.id"
          class="block w-full border-b border-default px-4 py-2 text-left"
          :class="each.id === chosen ? 'bg-petrol-100 dark:bg-petrol-900' : 'hover:bg-elevated'"
          :aria-current="each.id === chosen ? 'true' : undefined"
          @click="chosen = each.id"
        >
          <span class="flex gap-2"
            ><span class="truncate font-semibold">{{ each.to.join(', ') }}</span
            ><span class="ml-auto shrink-0 text-xs text-muted">{{ recentWords(each.at) }}</span></span
          >
          <span class="flex gap-2 text-muted"
            ><span class="truncate">{{ each.subject }}</span
            ><UIcon v-if="each.files.length" name="i-lucide-paperclip" class="ml-auto size-3.5 shrink-0 self-center"
          /></span>
        </button>
        <UButton v-if="list.letters.length < list.all" size="sm" variant="ghost" color="neutral" class="m-2" @click="load(true)">{{
          t('outboxPage.more', { more: grouped(list.all - list.letters.length) })
        }}</UButton>
      </nav>
      <main class="desk min-w-0 grow overflow-auto p-6">
        <article
          v-if="letter"
          class="rounded-md border border-default bg-default p-6 text-sm"
          :class="letter.html ? 'max-w-5xl' : 'max-w-3xl'"
          data-letter
        >
          <h2 class="mb-3 font-display text-lg font-semibold">{{ letter.subject }}</h2>
          <dl class="mb-4 grid grid-cols-[6rem_1fr] gap-y-0.5">
            <dt class="text-muted">{{ t('outboxPage.from') }}</dt>
            <dd>{{ letter.sender }}</dd>
            <dt class="text-muted">{{ t('outboxPage.to') }}</dt>
            <dd>{{ letter.to.join(', ') }}</dd>
            <template v-if="letter.replyTo"
              ><dt class="text-muted">{{ t('outboxPage.replyTo') }}</dt>
              <dd>{{ letter.replyTo }}</dd></template
            >
            <dt class="text-muted">{{ t('outboxPage.at') }}</dt>
            <dd>{{ exactWords(letter.at) }}</dd>
          </dl>
          <!-- a letter's own HTML stands by itself: no script of it runs -->
          <iframe
            v-if="letter.html"
            :srcdoc="letter.html"
            sandbox=""
            :title="t('outboxPage.letterAsItLooks')"
            class="h-[28rem] w-full rounded-sm border border-default bg-white"
            data-letter-html
          />
          <p v-else class="whitespace-pre-wrap border-t border-default pt-4">{{ letter.text }}</p>
          <div v-if="letter.files.length" class="mt-5 flex flex-wrap gap-2 border-t border-default pt-4">
            <UButton
              v-for="(file, number) in letter.files"
              :key="number"
              size="sm"
              variant="outline"
              color="neutral"
              icon="i-lucide-paperclip"
              :to="`/api/outbox/${chosen}/file?number=${number}`"
              external
              download
              >{{ file.name }} <span class="text-muted">{{ sizeWords(file.size) }}</span></UButton
            >
          </div>
        </article>
      </main>
    </div>
  </div>
</template>
