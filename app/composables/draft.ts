/**
 * What somebody is writing in a field: it stands until it is taken, whatever the field's value becomes meanwhile. It is taken before
 * anything else hears of a press elsewhere, so that it goes to what was chosen when it was written. Taking what was not changed says
 * nothing.
 */
export function useDraft(value: () => string, write: (text: string) => void) {
  const draft = ref<string>()
  const shown = computed(() => draft.value ?? value())
  const elsewhere = (event: PointerEvent): void => {
    if (!document.activeElement?.contains(event.target as Node)) take()
  }
  const drop = (): void => {
    draft.value = undefined
    document.removeEventListener('pointerdown', elsewhere, true)
  }
  const type = (text: unknown): void => {
    if (draft.value === undefined) document.addEventListener('pointerdown', elsewhere, true)
    draft.value = String(text ?? '')
  }
  const take = (): void => {
    const text = draft.value
    drop()
    if (text !== undefined && text !== value()) write(text)
  }
  const keys = (event: KeyboardEvent): void => {
    if (event.key === 'Escape' && draft.value !== undefined) {
      event.stopPropagation()
      drop()
    } else if (event.key === 'Enter' && (event.target as HTMLElement).tagName === 'INPUT') take()
  }
  onScopeDispose(drop)
  return { shown, type, take, keys }
}
