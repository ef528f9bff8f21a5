// Tables that stay fast with thousands of rows: a page of them at a time.

export interface Column<Row> {
  head: string;
  number?: boolean;
  cell: (row: Row) => string | Node;
}

const kPage = 200;

export class Table<Row> {
  private rows: Row[] = [];
  private page = 0;
  private readonly nodes = new Map<HTMLTableRowElement, Row>();
  /** The rows that stand there, each with its node: to mark some of them. */
  get shown(): ReadonlyMap<HTMLTableRowElement, Row> { return this.nodes; }

  constructor(
    private readonly home: HTMLElement, private readonly caption: string, private readonly columns: Column<Row>[],
    private readonly chosen: (row: Row) => void, private readonly lit: (row: Row | null) => void,
    private readonly drawn: () => void,
  ) {}

  set(rows: Row[]) {
    this.rows = rows, this.page = 0;
    this.draw();
  }
  /** Turns to the page with the first row that is meant. */
  turnTo(is: (row: Row) => boolean) {
    const at = this.rows.findIndex(is);
    if (at < 0) return;
    const page = Math.floor(at / kPage);
    if (page !== this.page) this.page = page, this.draw();
    for (const [node, row] of this.nodes) {
      if (is(row)) return node.scrollIntoView({ block: 'nearest' });
    }
  }

  private draw() {
    this.nodes.clear();
    this.home.replaceChildren();
    if (this.rows.length === 0) {
      this.home.append(note(`${this.caption}: none`));
      return;
    }
    const table = document.createElement('table');
    const caption = document.createElement('caption');
    caption.className = 'note';
    caption.textContent = `${this.caption}: ${this.rows.length}`;
    const head = document.createElement('tr');
    for (const c of this.columns) {
      const th = document.createElement('th');
      th.scope = 'col', th.textContent = c.head, th.className = c.number ? 'number' : '';
      head.append(th);
    }
    const thead = document.createElement('thead'), body = document.createElement('tbody');
    thead.append(head);
    for (const row of this.rows.slice(this.page * kPage, (this.page + 1) * kPage)) {
      const tr = document.createElement('tr');
      for (const c of this.columns) {
        const td = document.createElement('td');
        td.className = c.number ? 'number' : '';
        td.append(c.cell(row));
        tr.append(td);
      }
      tr.addEventListener('click', () => this.chosen(row));
      tr.addEventListener('mouseenter', () => this.lit(row));
      tr.addEventListener('mouseleave', () => this.lit(null));
      tr.addEventListener('focusin', () => this.lit(row));
      tr.addEventListener('focusout', () => this.lit(null));
      this.nodes.set(tr, row);
      body.append(tr);
    }
    table.append(caption, thead, body);
    this.home.append(table);
    const pages = Math.ceil(this.rows.length / kPage);
    if (pages > 1) this.home.append(this.pager(pages));
    this.drawn();
  }

  private pager(pages: number): HTMLElement {
    const out = document.createElement('div');
    out.className = 'pages';
    const turn = (text: string, by: number) => {
      const b = document.createElement('button');
      b.type = 'button', b.textContent = text;
      b.disabled = this.page + by < 0 || this.page + by >= pages;
      b.addEventListener('click', () => { this.page += by, this.draw(), this.home.scrollTo(0, 0); });
      return b;
    };
    const says = document.createElement('span');
    says.textContent = `rows ${this.page * kPage + 1} to ${Math.min(this.rows.length, (this.page + 1) * kPage)} of ${this.rows.length}`;
    out.append(turn('Back', -1), says, turn('On', 1));
    return out;
  }
}

export function note(text: string): HTMLElement {
  const out = document.createElement('p');
  out.className = 'note', out.textContent = text;
  return out;
}

/** A name that can be reached and chosen by the keyboard. */
export function nameButton(name: string, faction: number): HTMLElement {
  const out = document.createElement('button');
  out.type = 'button', out.textContent = name, out.title = name;
  out.style.color = `var(--faction-words-${faction % 6})`;
  return out;
}
