import { type CompanyDays, usualDays } from '../../core/pack/companyDays'
import type { MailSettings, PrinterSettings } from '../../core/pack/outside'
import type { Context } from '../access/context'

const [daysId, mailId, printersId] = ['company days', 'mail server', 'printers']

type Said = <T>(id: string) => Promise<{ value: T | undefined; version: number }>
type Say = (id: string, value: unknown, basedOn: number | undefined, what: string) => Promise<number>

/** What holds for the whole company, as its administrator says it. */
export class CompanySettings {
  constructor(
    private readonly said: Said,
    private readonly say: Say,
  ) {}

  /** How the company works: its clocks, working days and holidays. */
  async days(_: Context): Promise<CompanyDays & { version: number }> {
    const { value, version } = await this.said<CompanyDays>(daysId)
    return { ...usualDays(), ...value, version }
  }

  /** @throws StoreError where they were changed since `basedOn` */
  saveDays(_: Context, value: CompanyDays, basedOn?: number): Promise<number> {
    return this.say(daysId, value, basedOn, 'the company’s days')
  }

  /** Where letters go; its password is sealed. Nothing where no server is named. */
  async mail(_: Context): Promise<{ value: MailSettings | undefined; version: number }> {
    const { value, version } = await this.said<Partial<MailSettings>>(mailId)
    return { value: value?.host ? (value as MailSettings) : undefined, version }
  }

  /** @throws StoreError where it was changed since `basedOn` */
  saveMail(_: Context, value: MailSettings | null, basedOn?: number): Promise<number> {
    return this.say(mailId, value ?? {}, basedOn, 'the mail server')
  }

  async printers(_: Context): Promise<{ value: PrinterSettings[]; version: number }> {
    const { value, version } = await this.said<PrinterSettings[]>(printersId)
    return { value: Array.isArray(value) ? value : [], version }
  }

  /** @throws StoreError where they were changed since `basedOn` */
  savePrinters(_: Context, value: PrinterSettings[], basedOn?: number): Promise<number> {
    return this.say(printersId, value, basedOn, 'the printers')
  }
}
