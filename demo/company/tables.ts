/** The demo company's tables, as an ERP would have them. Amounts are in the document's currency unless a comment says otherwise. */
export const tables = `
create table currencies (code char(3) primary key, name text not null);
create table exchange_rates (currency_code char(3) not null references currencies, rate_date date not null, rate numeric(12,6) not
null, primary key (currency_code, rate_date));
create table countries (code char(2) primary key, name text not null);
create table regions (id integer primary key, name text not null, country_code char(2) not null references countries);
create table towns (id integer primary key, name text not null, postcode text, region_id integer references regions);
create table companies (id integer primary key, legal_name text not null, tax_number text not null, registration_number text not
null, address text not null, town_id integer not null references towns, country_code char(2) not null references countries, email text
not null, phone text not null, iban text not null, bic text not null, currency_code char(3) not null references currencies);
create table branches (id integer primary key, code text not null unique, name text not null, address text not null, town_id
integer not null references towns, phone text, company_id integer references companies);
create table departments (id integer primary key, code text not null unique, name text not null);
create table units (code text primary key, name text not null, unece_code text);
create table tax_codes (code text primary key, name text not null, category text, exemption_reason text);
create table tax_rates (tax_code text not null references tax_codes, valid_from date not null, rate numeric(6,3) not null, primary
key (tax_code, valid_from));
create table payment_terms (code text primary key, name text not null, days integer not null);
create table salespeople (id integer primary key, name text not null, branch_id integer not null references branches, email text);
create table item_categories (id integer primary key, parent_id integer references item_categories, name text not null, picture text);
create table accounts (code text primary key, name text not null, type text not null, class text not null, natural_side text not
null, parent_code text references accounts);
create table items (id integer primary key, code text not null unique, name text not null, category_id integer references
item_categories, unit_code text not null references units,
  tax_code text not null references tax_codes, price numeric(12,2) not null, net_weight numeric(10,3), cost numeric(12,2));
create table customers (id integer primary key, code text not null unique, name text not null, address text, address_line_2 text,
town_id integer references towns, tax_number text,
  payment_term_code text references payment_terms, salesperson_id integer references salespeople, currency_code char(3) not null
  references currencies, credit_limit numeric(12,2), language text not null, email text, country_code char(2) references countries);
create table customer_addresses (customer_id integer not null references customers, line_no integer not null, kind text not null,
address text not null, town_id integer references towns, primary key (customer_id, line_no));
create table warehouses (id integer primary key, code text not null unique, name text not null, branch_id integer not null
references branches);
create table orders (id integer primary key, number text not null unique, customer_id integer not null references customers,
branch_id integer not null references branches, order_date date not null,
  currency_code char(3) not null references currencies, salesperson_id integer references salespeople, customer_reference text);
create table order_lines (order_id integer not null references orders, line_no integer not null, item_id integer references items,
description text not null, quantity numeric(12,3), unit_price numeric(12,2), amount numeric(14,2), primary key (order_id, line_no));
create table invoices (id integer primary key, number text not null unique, kind text not null, branch_id integer not null
references branches, customer_id integer not null references customers,
  order_id integer references orders, invoice_date date not null, due_date date, payment_term_code text references payment_terms,
  salesperson_id integer references salespeople,
  currency_code char(3) not null references currencies, rate numeric(12,6) not null, lines_total numeric(14,2) not null, freight
  numeric(12,2) not null, discount numeric(12,2) not null,
  tax_total numeric(14,2) not null, total numeric(14,2) not null, base_total numeric(14,2) not null, note text, delivered_on date,
  credited_invoice_id integer references invoices, freight_tax_code text references tax_codes, discount_tax_code text references
  tax_codes);
create table invoice_lines (invoice_id integer not null references invoices, line_no integer not null, kind text not null, item_id
integer references items, account_code text references accounts,
  description text not null, quantity numeric(12,3), unit_code text references units, unit_price numeric(12,2), amount
  numeric(14,2), tax_code text references tax_codes, tax_rate numeric(6,3), primary key (invoice_id, line_no));
create table invoice_taxes (invoice_id integer not null references invoices, tax_code text not null references tax_codes, rate
numeric(6,3) not null, base numeric(14,2) not null, amount numeric(14,2) not null,
  base_currency_amount numeric(14,2) not null, primary key (invoice_id, tax_code));
create table receipts (id integer primary key, number text not null unique, customer_id integer not null references customers,
branch_id integer not null references branches, receipt_date date not null,
  currency_code char(3) not null references currencies, rate numeric(12,6) not null, amount numeric(14,2) not null, base_amount
  numeric(14,2) not null);
create table applications (id integer primary key, invoice_id integer not null references invoices, receipt_id integer references
receipts, credit_note_id integer references invoices, applied_on date not null,
  amount numeric(14,2) not null, base_amount numeric(14,2) not null, source_base_amount numeric(14,2) not null);
create table fiscal_years (id integer primary key, name text not null, starts_on date not null, ends_on date not null);
create table fiscal_periods (fiscal_year_id integer not null references fiscal_years, number integer not null, name text not null,
starts_on date not null, ends_on date not null, is_adjustment boolean not null, closed_on date, primary key (fiscal_year_id, number));
create table journals (id integer primary key, number text not null unique, posting_date date not null, fiscal_year_id integer not
null, period_number integer not null, source text not null, document_number text,
  description text not null, is_closing boolean not null default false, foreign key (fiscal_year_id, period_number) references
  fiscal_periods);
create table journal_lines (journal_id integer not null references journals, line_no integer not null, account_code text not null
references accounts, branch_id integer not null references branches,
  department_id integer references departments, debit numeric(14,2) not null, credit numeric(14,2) not null, primary key
  (journal_id, line_no));
create table budgets (version text not null, account_code text not null references accounts, branch_id integer not null references
branches, fiscal_year_id integer not null, period_number integer not null, amount numeric(14,2) not null,
  primary key (version, account_code, branch_id, fiscal_year_id, period_number), foreign key (fiscal_year_id, period_number)
  references fiscal_periods);
create table buyers (id integer primary key, name text not null, branch_id integer not null references branches, email text,
approves_up_to numeric(12,2));
create table suppliers (id integer primary key, code text not null unique, name text not null, address text, town_id integer
references towns, tax_number text, payment_term_code text references payment_terms,
  buyer_id integer references buyers, currency_code char(3) not null references currencies, bank_account text, email text);
create table item_suppliers (item_id integer not null references items, supplier_id integer not null references suppliers,
valid_from date not null, valid_to date, supplier_item_number text not null, price numeric(12,2) not null,
  currency_code char(3) not null references currencies, base_price numeric(12,2) not null, pack_size numeric(12,3) not null,
  minimum_quantity numeric(12,3) not null, lead_days integer not null, is_preferred boolean not null, primary key (item_id,
  supplier_id, valid_from));
create table stock_levels (item_id integer not null references items, warehouse_id integer not null references warehouses, on_hand
numeric(12,3) not null, reserved numeric(12,3) not null, on_order numeric(12,3) not null,
  reorder_point numeric(12,3) not null, order_up_to numeric(12,3) not null, primary key (item_id, warehouse_id));
create table stock_movements (id integer primary key, item_id integer not null references items, warehouse_id integer not null
references warehouses, movement_date date not null, kind text not null, document_number text,
  quantity numeric(12,3) not null, amount numeric(14,2) not null);
create table purchase_requests (id integer primary key, number text not null unique, requested_on date not null, requested_by text
not null, department_id integer not null references departments, branch_id integer not null references branches,
  status text not null, approver_id integer references buyers, approved_on date, needed_by date, reason text);
create table purchase_request_lines (request_id integer not null references purchase_requests, line_no integer not null, item_id
integer references items, description text not null, quantity numeric(12,3), unit_code text references units, estimated_price
numeric(12,2), amount numeric(14,2), primary key (request_id, line_no));
create table purchase_orders (id integer primary key, number text not null unique, supplier_id integer not null references
suppliers, branch_id integer not null references branches, warehouse_id integer not null references warehouses, buyer_id integer
references buyers,
  request_id integer references purchase_requests, order_date date not null, currency_code char(3) not null references currencies,
  payment_term_code text references payment_terms, total numeric(14,2) not null, note text);
create table purchase_order_lines (order_id integer not null references purchase_orders, line_no integer not null, item_id integer
not null references items, supplier_item_number text, description text not null, quantity numeric(12,3) not null, unit_code text
references units,
  unit_price numeric(12,2) not null, amount numeric(14,2) not null, expected_on date not null, received numeric(12,3) not null,
  is_closed boolean not null, primary key (order_id, line_no));
create table goods_receipts (id integer primary key, number text not null unique, order_id integer not null references
purchase_orders, supplier_id integer not null references suppliers, warehouse_id integer not null references warehouses,
receipt_date date not null, delivery_note text);
create table goods_receipt_lines (receipt_id integer not null references goods_receipts, line_no integer not null, order_id integer
not null, order_line_no integer not null, item_id integer not null references items, quantity numeric(12,3) not null,
  unit_price numeric(12,2) not null, base_amount numeric(14,2) not null, stock_amount numeric(14,2) not null, primary key
  (receipt_id, line_no), foreign key (order_id, order_line_no) references purchase_order_lines);
create table supplier_bills (id integer primary key, number text not null unique, kind text not null, supplier_number text not
null, supplier_id integer not null references suppliers, branch_id integer not null references branches, bill_date date not null,
due_date date,
  payment_term_code text references payment_terms, currency_code char(3) not null references currencies, rate numeric(12,6) not
  null, lines_total numeric(14,2) not null, tax_total numeric(14,2) not null, total numeric(14,2) not null, base_total
  numeric(14,2) not null);
create table supplier_bill_lines (bill_id integer not null references supplier_bills, line_no integer not null, receipt_id integer,
receipt_line_no integer, account_code text references accounts, description text not null, quantity numeric(12,3),
  unit_price numeric(12,2), amount numeric(14,2) not null, tax_code text references tax_codes, primary key (bill_id, line_no),
  foreign key (receipt_id, receipt_line_no) references goods_receipt_lines);
create table payments (id integer primary key, number text not null unique, supplier_id integer not null references suppliers,
branch_id integer not null references branches, payment_date date not null,
  currency_code char(3) not null references currencies, rate numeric(12,6) not null, amount numeric(14,2) not null, base_amount
  numeric(14,2) not null);
create table payment_applications (id integer primary key, bill_id integer not null references supplier_bills, payment_id integer
references payments, credit_id integer references supplier_bills, applied_on date not null,
  amount numeric(14,2) not null, base_amount numeric(14,2) not null, source_base_amount numeric(14,2) not null);
`

/** Made after the rows are in: faster than keeping them up to date row by row. */
export const indexes = `
create index on invoices (invoice_date);
create index on invoices (customer_id);
create index on invoice_lines (item_id);
create index on applications (invoice_id);
create index on applications (receipt_id);
create index on applications (credit_note_id);
create index on receipts (customer_id);
create index on journals (posting_date);
create index on journal_lines (account_code);
create index on stock_movements (item_id, warehouse_id);
create index on purchase_order_lines (item_id);
create index on goods_receipt_lines (order_id, order_line_no);
create index on supplier_bill_lines (receipt_id, receipt_line_no);
create index on supplier_bills (supplier_id);
create index on payments (supplier_id);
create index on payment_applications (bill_id);
create index on payment_applications (payment_id);
create index on payment_applications (credit_id);
`

/** Column and table comments: what the interface shows as captions and help. */
export const comments: Record<string, string> = {
  invoices: 'Invoices and credit notes; amounts of credit notes are negative',
  'invoices.kind': 'invoice or credit note',
  'invoices.freight': 'Freight charged on the header, taxed at the standard rate',
  'invoices.discount': 'Discount on the header, taken off before tax',
  'invoices.base_total': 'Total in EUR: in the company’s currency at the booked rate',
  'invoices.rate': 'Company currency for one unit of the document’s',
  invoice_lines: 'Lines of invoices and credit notes',
  'invoice_lines.kind': 'item, service or comment',
  'invoice_lines.account_code': 'Ledger account of a service line',
  invoice_taxes: 'Tax of an invoice, one row per rate',
  'invoice_taxes.base_currency_amount': 'Tax in the company’s currency, as posted',
  customers: 'Customers',
  'customers.credit_limit': 'Credit limit: in the customer’s currency',
  'customers.address_line_2': 'Address, second line: floor, unit or gate',
  items: 'Items for sale',
  'items.cost': 'Standard cost: of one unit, in the company’s currency',
  'items.price': 'List price, in the company’s currency',
  item_categories: 'Item categories, a tree',
  'item_categories.picture': 'Picture: a small drawing as SVG',
  receipts: 'Money received from customers',
  applications: 'Receipts and credit notes applied to invoices',
  'applications.base_amount': 'In the company’s currency at the invoice’s booked rate',
  'applications.source_base_amount': 'In the company’s currency at the receipt’s or credit note’s booked rate',
  towns: 'Towns',
  regions: 'Regions',
  countries: 'Countries',
  branches: 'Branches',
  companies: 'Our company, as the law knows it',
  'companies.tax_number': 'VAT number, with the letters of its country',
  'companies.registration_number': 'Number in the register of companies',
  'companies.iban': 'Bank account that customers pay to',
  'companies.email': 'Address that e-invoices come from',
  'units.unece_code': 'Code of UN/ECE Recommendation 20 or 21',
  'tax_codes.category': 'Category of the tax on e-invoices (UNTDID 5305)',
  'tax_codes.exemption_reason': 'Why nothing is charged, where nothing is',
  'customers.country_code': 'Country of the address',
  'customers.tax_number': 'VAT number, with the letters of its country',
  'invoices.delivered_on': 'Day of the delivery',
  'invoices.credited_invoice_id': 'The invoice that a credit note takes back',
  'invoices.freight_tax_code': 'Tax on the freight',
  'invoices.discount_tax_code': 'Tax whose base the discount is taken off',
  'invoice_lines.tax_rate': 'Rate of the tax on the day of the invoice',
  salespeople: 'Salespeople',
  payment_terms: 'Payment terms',
  'payment_terms.days': 'Days from the document’s date until it is due',
  orders: 'Sales orders',
  order_lines: 'Lines of sales orders',
  accounts: 'Chart of accounts',
  'accounts.natural_side': 'debit or credit',
  'accounts.parent_code': 'Account that it stands under in the tree; nothing is posted on one that others stand under',
  journals: 'Journals: each balances within each branch',
  'journals.is_closing': 'Closes a fiscal year',
  budgets: 'Budgets by account, branch and period',
  'budgets.version': 'original or revised',
  'budgets.amount': 'In the account’s natural sign, in the company’s currency',
  journal_lines: 'Journal lines, in the company’s currency',
  fiscal_years: 'Fiscal years',
  fiscal_periods: 'Fiscal periods; the thirteenth takes adjustments',
  units: 'Units of measure',
  tax_codes: 'Tax codes',
  tax_rates: 'Tax rates by date',
  exchange_rates: 'Company currency for one unit of a currency, by date',
  currencies: 'Currencies',
  buyers: 'Buyers',
  'buyers.approves_up_to': 'Approves requests up to this amount, in the company’s currency',
  suppliers: 'Suppliers',
  'suppliers.bank_account': 'Account that we pay to',
  item_suppliers: 'Who supplies an item, at what price and since when',
  'item_suppliers.base_price': 'Price in the company’s currency',
  'item_suppliers.valid_to': 'Last day of the price; empty: it still holds',
  'item_suppliers.pack_size': 'Orders are a multiple of this',
  'item_suppliers.minimum_quantity': 'Least quantity of an order',
  'item_suppliers.lead_days': 'Days from order to delivery',
  'item_suppliers.is_preferred': 'Bought here first',
  stock_levels: 'Stock of an item in a warehouse',
  'stock_levels.reserved': 'Promised to sales orders that are not invoiced yet',
  'stock_levels.on_order': 'Still to come from open purchase order lines',
  'stock_levels.reorder_point': 'Order again when less is available',
  'stock_levels.order_up_to': 'Order up to this quantity',
  stock_movements: 'What came into a warehouse and went out of it',
  'stock_movements.amount': 'In the company’s currency, at standard cost',
  purchase_requests: 'Requests to buy',
  'purchase_requests.status': 'waiting, approved, refused or ordered',
  purchase_request_lines: 'Lines of requests to buy',
  purchase_orders: 'Purchase orders',
  purchase_order_lines: 'Lines of purchase orders',
  'purchase_order_lines.received': 'Received so far',
  'purchase_order_lines.is_closed': 'Nothing more will come',
  goods_receipts: 'Goods received',
  goods_receipt_lines: 'Lines of goods received',
  'goods_receipt_lines.base_amount': 'At the order’s price, in the company’s currency',
  'goods_receipt_lines.stock_amount': 'At standard cost',
  supplier_bills: 'Supplier bills and their credit notes; amounts of credit notes are negative',
  'supplier_bills.kind': 'bill or credit note',
  'supplier_bills.supplier_number': 'The supplier’s own number',
  'supplier_bills.base_total': 'Total in EUR: in the company’s currency at the booked rate',
  supplier_bill_lines: 'Lines of supplier bills',
  payments: 'Money paid to suppliers',
  payment_applications: 'Payments and credit notes applied to supplier bills',
  'payment_applications.base_amount': 'In the company’s currency at the bill’s booked rate',
  'payment_applications.source_base_amount': 'In the company’s currency at the payment’s or credit note’s booked rate',
  warehouses: 'Warehouses',
  departments: 'Departments',
  customer_addresses: 'Delivery addresses',
}
