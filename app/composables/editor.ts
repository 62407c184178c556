import { autocompletion, type Completion, type CompletionContext, closeBrackets } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { PostgreSQL, sql } from '@codemirror/lang-sql'
import { HighlightStyle, LRLanguage, LanguageSupport, syntaxHighlighting } from '@codemirror/language'
import { type Diagnostic, setDiagnostics } from '@codemirror/lint'
import { EditorState, type Extension } from '@codemirror/state'
import { EditorView, keymap, placeholder } from '@codemirror/view'
import { styleTags, tags } from '@lezer/highlight'
import { parser } from '../../core/formula/parser.js'
import type { LRParser } from '@lezer/lr'

const formula = LRLanguage.define({
  name: 'formula',
  parser: (parser as LRParser).configure({
    props: [
      styleTags({
        Number: tags.number,
        String: tags.string,
        'True False Empty': tags.bool,
        Name: tags.variableName,
        FunctionName: tags.function(tags.variableName),
        ArgumentName: tags.labelName,
        'SumOp ProductOp CompareOp': tags.operator,
        'and or not in between': tags.keyword,
      }),
    ],
  }),
})

const look = HighlightStyle.define([
  { tag: tags.number, color: 'var(--level-1)' },
  { tag: tags.string, color: 'var(--level-3)' },
  { tag: tags.bool, color: 'var(--level-1)' },
  { tag: tags.keyword, color: 'var(--level-2)' },
  { tag: tags.function(tags.variableName), color: 'var(--level-0)', fontWeight: '600' },
  { tag: tags.labelName, color: 'var(--level-4)' },
  { tag: tags.comment, color: 'var(--ui-text-dimmed)' },
  { tag: tags.typeName, color: 'var(--level-0)' },
])

const theme = EditorView.theme({
  '&': { fontSize: '12.5px', backgroundColor: 'var(--ui-bg)', border: '1px solid var(--ui-border-accented)', borderRadius: '6px' },
  '&.cm-focused': { outline: '2px solid var(--color-petrol-500)', outlineOffset: '0' },
  '.cm-content': {
    fontFamily: 'ui-monospace, SFMono-Regular, Menlo, monospace',
    padding: '6px 2px',
    caretColor: 'var(--ui-text-highlighted)',
  },
  '.cm-cursor': { borderLeftColor: 'var(--ui-text-highlighted)' },
  '.cm-tooltip': {
    backgroundColor: 'var(--ui-bg)',
    border: '1px solid var(--ui-border)',
    borderRadius: '6px',
    overflow: 'hidden',
    maxWidth: '420px',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--font-sans)', fontSize: '13px', maxHeight: '15em' },
  '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: 'var(--ui-primary)', color: 'white' },
  '.cm-completionDetail': { fontStyle: 'normal', opacity: '0.65', marginLeft: '0.8em' },
  '.cm-lintRange-error': { backgroundImage: 'none', textDecoration: 'underline wavy var(--ui-error)', textUnderlineOffset: '3px' },
  '.cm-placeholder': { color: 'var(--ui-text-dimmed)' },
})

/** Something that an editor proposes while writing: what is inserted, and words beside it. */
export interface Proposal {
  label: string
  insert: string
  hint: string
  kind: 'field' | 'function' | 'parameter'
}

export interface EditorOptions {
  parent: HTMLElement
  language: 'formula' | 'sql'
  text: string
  label: string
  lines: number
  hint?: string
  /** what can stand in a formula */
  proposals?: () => readonly Proposal[]
  /** tables and their columns, for SQL */
  schema?: Record<string, string[]>
  onChange: (text: string) => void
  onCommit?: () => void
}

/** A CodeMirror editor for formulas or SQL texts. */
export function createEditor(options: EditorOptions): EditorView {
  const source = (context: CompletionContext) => {
    const word = context.matchBefore(/[\p{L}_.][\p{L}\p{N}_.]*$/u)
    if (!word && !context.explicit) return null
    return {
      from: word?.from ?? context.pos,
      validFor: /^[\p{L}\p{N}_.]*$/u,
      options: options.proposals!().map((each): Completion => ({
        label: each.insert.replace(/\(\)$/, ''),
        displayLabel: each.kind === 'function' ? each.label : each.insert,
        detail: each.kind === 'function' ? '' : each.label,
        info: each.kind === 'function' ? tell(each.hint) : undefined,
        type: each.kind === 'field' ? 'property' : each.kind === 'function' ? 'function' : 'constant',
        apply:
          each.kind === 'function'
            ? (view, _, from, to) => {
                const insert = each.insert.endsWith('()') ? each.insert : `${each.insert}()`
                view.dispatch({ changes: { from, to, insert }, selection: { anchor: from + insert.length - 1 } })
              }
            : each.insert,
      })),
    }
  }
  const extensions: Extension[] = [
    history(),
    closeBrackets(),
    syntaxHighlighting(look),
    theme,
    EditorView.lineWrapping,
    keymap.of([{ key: 'Mod-Enter', run: () => !!options.onCommit && (options.onCommit(), true) }, ...defaultKeymap, ...historyKeymap]),
    EditorView.updateListener.of(update => update.docChanged && options.onChange(update.state.doc.toString())),
    EditorView.contentAttributes.of({ 'aria-label': options.label, spellcheck: 'false' }),
    EditorView.theme({ '.cm-content': { minHeight: `${options.lines * 1.5 + 1}em` } }),
    ...(options.hint ? [placeholder(options.hint)] : []),
    ...(options.language === 'formula'
      ? [new LanguageSupport(formula), autocompletion({ override: [source], icons: false })]
      : [sql({ dialect: PostgreSQL, schema: options.schema ?? {}, upperCaseKeywords: false }), autocompletion({ icons: false })]),
  ]
  return new EditorView({ parent: options.parent, state: EditorState.create({ doc: options.text, extensions }) })
}

/** Underlines the place of a fault. */
export function showFault(view: EditorView, fault: { from: number; to: number; message: string } | undefined): void {
  const { length } = view.state.doc
  const found: Diagnostic[] = fault
    ? [
        {
          from: Math.min(fault.from, Math.max(0, length - 1)),
          to: Math.min(length, Math.max(fault.to, fault.from + 1)),
          severity: 'error',
          message: fault.message,
        },
      ]
    : []
  view.dispatch(setDiagnostics(view.state, found))
}
