import { defineStore } from 'pinia'

/** Something the program can do, found by Ctrl K. */
export interface Command {
  id: string
  label: string
  group: string
  icon?: string
  keys?: string[]
  hint?: string
  run: () => unknown
}

/** What can be done where one is; each screen puts its own commands in while it is shown. */
export const useCommands = defineStore('commands', () => {
  const lists = shallowRef<readonly (() => Command[])[]>([])
  const open = ref(false)
  const all = computed(() => lists.value.flatMap(list => list()))

  /** Offers commands for as long as the component that calls this is there. */
  function offer(list: () => Command[]): void {
    lists.value = [...lists.value, list]
    onScopeDispose(() => (lists.value = lists.value.filter(each => each !== list)))
  }
  return { all, open, offer }
})
