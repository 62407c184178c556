/** As ipp-encoder 5.0.0 is written; it comes without types. */
declare module 'ipp-encoder' {
  interface Attribute {
    tag: number
    name: string
    /** as decoded always a list */
    value: unknown
  }
  interface Message {
    version: { major: number; minor: number }
    requestId: number
    groups: { tag: number; attributes: Attribute[] }[]
  }
  interface Way<K extends string> {
    encode: (message: Message & Record<K, number>, into?: Buffer) => Buffer
    encodingLength: (message: Message & Record<K, number>) => number
    decode: ((bytes: Buffer) => Message & Record<K, number>) & { bytes: number }
  }
  const ipp: {
    request: Way<'operationId'>
    response: Way<'statusCode'>
    CONSTANTS: Record<
      | 'OPERATION_ATTRIBUTES_TAG'
      | 'JOB_ATTRIBUTES_TAG'
      | 'PRINTER_ATTRIBUTES_TAG'
      | 'CHARSET'
      | 'NATURAL_LANG'
      | 'URI'
      | 'NAME_WITHOUT_LANG'
      | 'MIME_MEDIA_TYPE'
      | 'INTEGER'
      | 'KEYWORD'
      | 'ENUM'
      | 'TEXT_WITHOUT_LANG'
      | 'PRINT_JOB'
      | 'GET_JOB_ATTRIBUTES'
      | 'GET_PRINTER_ATTRIBUTES',
      number
    >
    STATUS_CODES: Record<number, string>
  }
  export default ipp
}
