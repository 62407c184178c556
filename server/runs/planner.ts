import type { ReportDefinition } from '../../core/definition/report'
import { readDefinition, sizeOf } from '../../core/definition/schema'
import type { Context } from '../access/context'
import type { RunInput } from './input'
import type { Planned, Question } from './questions'
import { Threads } from './threads'

/** Letters of a definition up to which it is checked where it is: sending it elsewhere takes as long. */
const small = 20_000

/**
 * Checks definitions and plans what authors ask of them, in a thread of its own with little time and memory: what one of them asks for
 * keeps nobody else waiting, and a run that is at work keeps none of them waiting.
 */
export class Planner {
  private readonly threads = new Threads({ threads: 1, megabytes: 1024, grace: 1000, silence: 8000 })

  /** A definition that comes from outside. @throws DefinitionError or RunError with the first fault and its place */
  async read(context: Context, value: unknown): Promise<ReportDefinition> {
    if (sizeOf(value, small) <= small) return readDefinition(value)
    return (await this.threads.task(context, { kind: 'definition', value })) as ReportDefinition
  }

  /** The text of one. @throws RunError */
  async parse(context: Context, text: string): Promise<ReportDefinition> {
    return (await this.threads.task(context, { kind: 'definitionText', text })) as ReportDefinition
  }

  /** The statements that answer a question. @throws RunError */
  async plan(context: Context, input: RunInput, question: Question): Promise<Planned> {
    return (await this.threads.over(context, input, (sent, ports) => ({ kind: 'plan', input: sent, question, ports }))) as Planned
  }

  /** Begins its thread; the first question would. */
  warm(): void {
    this.threads.warm()
  }

  close(): Promise<void> {
    return this.threads.close()
  }
}
