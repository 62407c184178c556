declare module 'sepa-payment-qr-code' {
  /** The text of a payment QR. */
  export default function generate(data: {
    name: string
    iban: string
    bic?: string
    amount: number | null
    structuredReference?: string
    unstructuredReference?: string
  }): string
}
