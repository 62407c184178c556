/** The demo company's tables, as an ERP would have them. Amounts are in the document's currency unless a comment says otherwise. */
export const tables = `
create table currencies (code char(3) primary key, name text not null);
create table exchange_rates (currency_code char(3) not null references currencies, rate_date date not null, rate numeric(12,6) not null, primary key (currency_code, rate_date));
create table countries (code char(2) primary key, name text not null);
create table regions (id integer primary key, name text not null, country_code char(2) not null references countries);
create table towns (id integer primary key, name text not null, postcode text, region_id integer references regions);
create table branches (id integer primary key, code text not null unique, name text not null, address text not null, town_id integer not null references towns, phone text);
create table departments (id integer primary key, code text not null unique, name text not null);
create table units (code text primary key, name text not null);
create table tax_codes (code text primary key, name text not null);
create table tax_rates (tax_code text not null references tax_codes, valid_from date not null, rate numeric(6,3) not null, primary key (tax_code, valid_from));
create table payment_terms (code text primary key, name text not null, days integer not null);
create table salespeople (id integer primary key, name text not null, branch_id integer not null references branches, email text);
create table item_categories (id integer primary key, parent_id integer references item_categories, name text not null, picture text);
create table accounts (code text primary key, name text not null, type text not null, class text not null, natural_side text not null);
create table items (id integer primary key, code text not null unique, name text not null, category_id integer references item_categories, unit_code text not null references units,
  tax_code text not null references tax_codes, price numeric(12,2) not null, net_weight numeric(10,3), cost numeric(12,2));
create table customers (id integer primary key, code text not null unique, name text not null, address text, address_line_2 text, town_id integer references towns, tax_number text,
  payment_term_code text references payment_terms, salesperson_id integer references salespeople, currency_code char(3) not null references currencies, credit_limit numeric(12,2), language text not null);
create table customer_addresses (customer_id integer not null references customers, line_no integer not null, kind text not null, address text not null, town_id integer references towns, primary key (customer_id, line_no));
create table warehouses (id integer primary key, code text not null unique, name text not null, branch_id integer not null references branches);
create table orders (id integer primary key, number text not null unique, customer_id integer not null references customers, branch_id integer not null references branches, order_date date not null,
  currency_code char(3) not null references currencies, salesperson_id integer references salespeople, customer_reference text);
create table order_lines (order_id integer not null references orders, line_no integer not null, item_id integer references items, description text not null, quantity numeric(12,3), unit_price numeric(12,2), amount numeric(14,2), primary key (order_id, line_no));
create table invoices (id integer primary key, number text not null unique, kind text not null, branch_id integer not null references branches, customer_id integer not null references customers,
  order_id integer references orders, invoice_date date not null, due_date date, payment_term_code text references payment_terms, salesperson_id integer references salespeople,
  currency_code char(3) not null references currencies, rate numeric(12,6) not null, lines_total numeric(14,2) not null, freight numeric(12,2) not null, discount numeric(12,2) not null,
  tax_total numeric(14,2) not null, total numeric(14,2) not null, base_total numeric(14,2) not null, note text);
create table invoice_lines (invoice_id integer not null references invoices, line_no integer not null, kind text not null, item_id integer references items, account_code text references accounts,
  description text not null, quantity numeric(12,3), unit_code text references units, unit_price numeric(12,2), amount numeric(14,2), tax_code text references tax_codes, primary key (invoice_id, line_no));
create table invoice_taxes (invoice_id integer not null references invoices, tax_code text not null references tax_codes, rate numeric(6,3) not null, base numeric(14,2) not null, amount numeric(14,2) not null,
  base_currency_amount numeric(14,2) not null, primary key (invoice_id, tax_code));
create table receipts (id integer primary key, number text not null unique, customer_id integer not null references customers, branch_id integer not null references branches, receipt_date date not null,
  currency_code char(3) not null references currencies, rate numeric(12,6) not null, amount numeric(14,2) not null, base_amount numeric(14,2) not null);
create table applications (id integer primary key, invoice_id integer not null references invoices, receipt_id integer references receipts, credit_note_id integer references invoices, applied_on date not null,
  amount numeric(14,2) not null, base_amount numeric(14,2) not null, source_base_amount numeric(14,2) not null);
create table fiscal_years (id integer primary key, name text not null, starts_on date not null, ends_on date not null);
create table fiscal_periods (fiscal_year_id integer not null references fiscal_years, number integer not null, name text not null, starts_on date not null, ends_on date not null, is_adjustment boolean not null, primary key (fiscal_year_id, number));
create table journals (id integer primary key, number text not null unique, posting_date date not null, fiscal_year_id integer not null, period_number integer not null, source text not null, document_number text,
  description text not null, is_closing boolean not null default false, foreign key (fiscal_year_id, period_number) references fiscal_periods);
create table journal_lines (journal_id integer not null references journals, line_no integer not null, account_code text not null references accounts, branch_id integer not null references branches,
  department_id integer references departments, debit numeric(14,2) not null, credit numeric(14,2) not null, primary key (journal_id, line_no));
`

/** Made after the rows are in: faster than keeping them up to date row by row. */
export const indexes = `
create index on invoices (invoice_date);
create index on invoices (customer_id);
create index on invoice_lines (item_id);
create index on applications (invoice_id);
create index on applications (receipt_id);
create index on receipts (customer_id);
create index on journals (posting_date);
create index on journal_lines (account_code);
`

/** Column and table comments: what the interface shows as captions and help. */
export const comments: Record<string, string> = {
  'invoices': 'Invoices and credit notes; amounts of credit notes are negative',
  'invoices.kind': 'invoice or credit note',
  'invoices.freight': 'Freight charged on the header, taxed at the standard rate',
  'invoices.discount': 'Discount on the header, taken off before tax',
  'invoices.base_total': 'Total in EUR: in the company’s currency at the booked rate',
  'invoices.rate': 'Company currency for one unit of the document’s',
  'invoice_lines': 'Lines of invoices and credit notes',
  'invoice_lines.kind': 'item, service or comment',
  'invoice_lines.account_code': 'Ledger account of a service line',
  'invoice_taxes': 'Tax of an invoice, one row per rate',
  'invoice_taxes.base_currency_amount': 'Tax in the company’s currency, as posted',
  'customers': 'Customers',
  'customers.credit_limit': 'Credit limit: in the customer’s currency', 'customers.address_line_2': 'Address, second line: floor, unit or gate',
  'items': 'Items for sale', 'items.cost': 'Standard cost: of one unit, in the company’s currency', 'items.price': 'List price, in the company’s currency',
  'item_categories': 'Item categories, a tree', 'item_categories.picture': 'Picture: a small drawing as SVG',
  'receipts': 'Money received from customers',
  'applications': 'Receipts and credit notes applied to invoices',
  'applications.base_amount': 'In the company’s currency at the invoice’s booked rate',
  'applications.source_base_amount': 'In the company’s currency at the receipt’s or credit note’s booked rate',
  'towns': 'Towns', 'regions': 'Regions', 'countries': 'Countries', 'branches': 'Branches', 'salespeople': 'Salespeople',
  'payment_terms': 'Payment terms', 'payment_terms.days': 'Days from the document’s date until it is due',
  'orders': 'Sales orders', 'order_lines': 'Lines of sales orders',
  'accounts': 'Chart of accounts', 'accounts.natural_side': 'debit or credit',
  'journals': 'Journals: each balances within each branch', 'journals.is_closing': 'Closes a fiscal year',
  'journal_lines': 'Journal lines, in the company’s currency',
  'fiscal_years': 'Fiscal years', 'fiscal_periods': 'Fiscal periods; the thirteenth takes adjustments',
  'units': 'Units of measure', 'tax_codes': 'Tax codes', 'tax_rates': 'Tax rates by date',
  'exchange_rates': 'Company currency for one unit of a currency, by date', 'currencies': 'Currencies',
  'warehouses': 'Warehouses', 'departments': 'Departments', 'customer_addresses': 'Delivery addresses',
}
