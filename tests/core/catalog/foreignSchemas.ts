import type { Catalog } from '../../../core/books/catalog'
import type { CatalogTable, ForeignKey } from '../../../core/catalog/types'

/**
 * Five small schemas of other trades in other habits of naming, all invented for these tests. A column is written `name type`, with `!`
 * where it is part of the primary key, `>table.column` where it points somewhere, and its comment after `#`.
 */
const types: Record<string, Pick<CatalogTable['columns'][0], 'type' | 'databaseType' | 'scale'>> = {
  text: { type: 'text', databaseType: 'text' },
  int: { type: 'number', databaseType: 'integer', scale: 0 },
  n2: { type: 'number', databaseType: 'numeric(14,2)', scale: 2 },
  n3: { type: 'number', databaseType: 'numeric(14,3)', scale: 3 },
  n4: { type: 'number', databaseType: 'numeric(14,4)', scale: 4 },
  date: { type: 'date', databaseType: 'date' },
  time: { type: 'moment', databaseType: 'timestamp' },
  yes: { type: 'boolean', databaseType: 'boolean' },
}

function schema(tables: Record<string, string[]>): Catalog {
  const foreignKeys: ForeignKey[] = []
  const made = Object.entries(tables).map(([name, lines]): CatalogTable => {
    const columns = lines.map(line => {
      const [said, comment] = line.split('#').map(part => part.trim()) as [string, string | undefined]
      const [column, type, ...marks] = said.split(/\s+/) as [string, string, ...string[]]
      const points = marks
        .find(mark => mark.startsWith('>'))
        ?.slice(1)
        .split('.')
      if (points)
        foreignKeys.push({
          name: `${name} ${column}`,
          from: { table: name, columns: [column] },
          to: { table: points[0]!, columns: [points[1]!] },
          origin: 'declared',
        })
      return { name: column, required: marks.includes('!'), ...types[type]!, ...(comment ? { comment } : {}), key: marks.includes('!') }
    })
    return {
      schema: '',
      name,
      columns: columns.map(({ key: _, ...column }) => column),
      primaryKey: columns.filter(({ key }) => key).map(column => column.name),
      rowEstimate: 0,
    }
  })
  return { tables: made, foreignKeys }
}

export interface Foreign {
  trade: string
  catalog: Catalog
  /** the roles that people would give, by table */
  roles: Record<string, string>
  /** a document of the schema, and what its draft must do */
  document?: {
    table: string
    title: string
    /** texts that stand on its page, as fields */
    shows: string[]
    totals: string[]
    never: string[]
  }
}

export const foreign: Foreign[] = [
  {
    trade: 'a joinery, in German',
    catalog: schema({
      kunden: ['kunden_id int !', 'kundennummer text', 'name text', 'strasse text', 'plz text', 'ort text', 'ust_id text', 'telefon text'],
      artikel: [
        'artikel_id int !',
        'artikelnr text',
        'bezeichnung text',
        'einheit text',
        'listenpreis n2',
        'gewicht n3',
        'lagerbestand n3',
      ],
      rechnungen: [
        'rechnung_id int !',
        'rechnungsnr text',
        'kunden_id int >kunden.kunden_id',
        'rechnungsdatum date',
        'faellig_am date',
        'waehrung text',
        'nettobetrag n2',
        'mwst_betrag n2',
        'rechnungsbetrag n2',
        'bemerkung text',
        'erstellt_am time',
        'bezahlt yes',
      ],
      rechnungspositionen: [
        'rechnung_id int ! >rechnungen.rechnung_id',
        'pos_nr int !',
        'artikel_id int >artikel.artikel_id',
        'beschreibung text',
        'menge n3',
        'einzelpreis n2',
        'rabatt_prozent n2',
        'gesamtpreis n2',
      ],
    }),
    roles: {
      kunden: 'kunden_id=key kundennummer=code name=name strasse=address plz=postcode ort=place ust_id=taxNumber telefon=contact',
      artikel: 'artikel_id=key artikelnr=code bezeichnung=name einheit=unit listenpreis=rate gewicht=rate lagerbestand=quantity',
      rechnungen:
        'rechnung_id=key rechnungsnr=number kunden_id=key rechnungsdatum=date faellig_am=date waehrung=currency nettobetrag=amount ' +
        'mwst_betrag=amount rechnungsbetrag=amount bemerkung=note erstellt_am=system bezahlt=flag',
      rechnungspositionen:
        'rechnung_id=key pos_nr=position artikel_id=key beschreibung=text menge=quantity einzelpreis=rate rabatt_prozent=percent ' +
        'gesamtpreis=amount',
    },
    document: {
      table: 'rechnungen',
      title: 'rechnungsnr',
      shows: ['kunden.name', 'kunden.strasse', 'kunden.plz', 'rechnungsdatum', 'rechnungsbetrag', 'menge', 'einzelpreis', 'gesamtpreis'],
      totals: ['nettobetrag', 'mwst_betrag', 'rechnungsbetrag'],
      never: ['rechnung_id', 'kunden_id', 'artikel_id', 'erstellt_am'],
    },
  },
  {
    trade: 'a clinic, in Spanish',
    catalog: schema({
      pacientes: [
        'id int !',
        'codigo text',
        'nombre text',
        'direccion text',
        'codigo_postal text',
        'ciudad text',
        'nif text',
        'correo text',
      ],
      facturas: [
        'id int !',
        'numero text',
        'paciente_id int >pacientes.id',
        'fecha_emision date',
        'fecha_vencimiento date',
        'moneda text',
        'base_imponible n2',
        'importe_iva n2',
        'importe_total n2',
        'estado text',
        'observaciones text',
      ],
      lineas_factura: [
        'factura_id int ! >facturas.id',
        'linea int !',
        'concepto text',
        'cantidad n3',
        'precio_unitario n2',
        'tipo_iva n2',
        'importe n2',
      ],
    }),
    roles: {
      pacientes: 'id=key codigo=code nombre=name direccion=address codigo_postal=postcode ciudad=place nif=taxNumber correo=contact',
      facturas:
        'id=key numero=number paciente_id=key fecha_emision=date fecha_vencimiento=date moneda=currency base_imponible=amount ' +
        'importe_iva=amount importe_total=amount estado=status observaciones=note',
      lineas_factura: 'factura_id=key linea=position concepto=text cantidad=quantity precio_unitario=rate tipo_iva=percent importe=amount',
    },
    document: {
      table: 'facturas',
      title: 'numero',
      shows: [
        'paciente.nombre',
        'paciente.direccion',
        'fecha_emision',
        'importe_total',
        'concepto',
        'cantidad',
        'precio_unitario',
        'importe',
      ],
      totals: ['base_imponible', 'importe_iva', 'importe_total'],
      never: ['id', 'paciente_id', 'factura_id'],
    },
  },
  {
    trade: 'a freight forwarder, in capitals with prefixes',
    catalog: schema({
      T_CUST: ['CU_ID int !', 'CU_CODE text', 'CU_NAME text', 'CU_ADDR text', 'CU_CITY text', 'CU_CRLIMIT n2'],
      T_WAYBILL: [
        'WB_ID int !',
        'WB_NO text',
        'WB_CUST int >T_CUST.CU_ID',
        'WB_DATE date',
        'WB_STATUS text',
        'WB_CURR text',
        'WB_NET_AMT n2',
        'WB_VAT_AMT n2',
        'WB_TOT_AMT n2',
        'WB_UPDATED_TS time',
      ],
      T_WAYBILL_ITEM: [
        'WI_WB int ! >T_WAYBILL.WB_ID',
        'WI_LINENO int !',
        'WI_DESCR text',
        'WI_QTY n3',
        'WI_WEIGHT n3',
        'WI_PRICE n4',
        'WI_VAT_PCT n2',
        'WI_AMT n2',
      ],
    }),
    roles: {
      T_CUST: 'CU_ID=key CU_CODE=code CU_NAME=name CU_ADDR=address CU_CITY=place CU_CRLIMIT=amount',
      T_WAYBILL:
        'WB_ID=key WB_NO=number WB_CUST=key WB_DATE=date WB_STATUS=status WB_CURR=currency WB_NET_AMT=amount WB_VAT_AMT=amount ' +
        'WB_TOT_AMT=amount WB_UPDATED_TS=system',
      T_WAYBILL_ITEM:
        'WI_WB=key WI_LINENO=position WI_DESCR=text WI_QTY=quantity WI_WEIGHT=rate WI_PRICE=rate WI_VAT_PCT=percent WI_AMT=amount',
    },
    document: {
      table: 'T_WAYBILL',
      title: 'WB_NO',
      shows: ['WB_CUST.CU_NAME', 'WB_DATE', 'WB_TOT_AMT', 'WI_DESCR', 'WI_QTY', 'WI_PRICE', 'WI_AMT'],
      totals: ['WB_NET_AMT', 'WB_VAT_AMT', 'WB_TOT_AMT'],
      never: ['WB_ID', 'WB_UPDATED_TS'],
    },
  },
  {
    trade: 'a language school, in camelCase, without foreign keys',
    catalog: schema({
      students: [
        'studentId int !',
        'studentNumber text',
        'fullName text',
        'streetAddress text',
        'zipCode text',
        'city text',
        'emailAddress text',
      ],
      enrolments: [
        'enrolmentId int !',
        'enrolmentNumber text',
        'studentId int',
        'enrolledOn date',
        'courseTitle text',
        'lessonHours int',
        'hourlyRate n2',
        'discountPercent n2',
        'feeTotal n2',
        'schoolYear int',
        'createdAt time',
      ],
    }),
    roles: {
      students: 'studentId=key studentNumber=number fullName=name streetAddress=address zipCode=postcode city=place emailAddress=contact',
      enrolments:
        'enrolmentId=key enrolmentNumber=number studentId=key enrolledOn=date courseTitle=name lessonHours=quantity hourlyRate=rate ' +
        'discountPercent=percent feeTotal=amount schoolYear=period createdAt=system',
    },
  },
  {
    trade: 'a water works, with numbered columns and comments only',
    catalog: schema({
      tab7: ['c01 int ! # Key', 'c02 text # Meter number', 'c03 text # Name: of whom the meter stands with', 'c04 text # Address'],
      tab8: [
        'c01 int !',
        'c02 text # Bill number',
        'c03 int >tab7.c01 # Meter',
        'c04 date # Bill date',
        'c05 int # Reading year',
        'c06 n3 # Quantity in m³',
        'c07 n4 # Price per m³',
        'c08 n2 # VAT per cent',
        'c09 n2 # Amount due: with tax',
        'c10 text # Currency',
        'c11 text # Remarks',
      ],
    }),
    roles: {
      tab7: 'c01=key c02=number c03=name c04=address',
      tab8: 'c01=key c02=number c03=key c04=date c05=period c06=quantity c07=rate c08=percent c09=amount c10=currency c11=note',
    },
  },
]
