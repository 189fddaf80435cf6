import { api, type TableRows, type TableShown } from '../api/client'
import { wordsOf } from '../lib/faults'
import { notices } from '../lib/notices.svelte'
import type { Recipe } from './recipe'

const PAGE = 200
const KEPT_PAGES = 40

export interface Filter {
    where: string
    low?: number
    high?: number
    text?: string
    gaps?: boolean
}
export interface Row {
    number: number
    cells: (number | string | null)[]
    original: (number | string | null)[]
    /** Standard uncertainties by column, where cells say any. */
    errors: Record<string, number>
}

/** The tables of a folio: the one that is open, its rows page by page as they are scrolled to. */
export class Tables {
    readonly folio: number
    list = $state.raw<TableShown[]>([])
    name = $state('')
    loading = $state(true)
    failure = $state('')
    total = $state(0)
    sort = $state<string | undefined>(undefined)
    down = $state(false)
    filter = $state.raw<Filter | undefined>(undefined)
    mendedOnly = $state(false)
    busy = $state(false)
    #pages = $state.raw<Record<number, Row[]>>({})
    #asked: Record<number, boolean> = {}
    #turn = 0
    /** Recipes before the last changes, to be taken back. */
    #before: { name: string; recipe: Recipe }[] = $state.raw([])

    constructor(folio: number) {
        this.folio = folio
    }

    get table(): TableShown | undefined {
        return this.list.find((t) => t.name === this.name)
    }

    get recipe(): Recipe | undefined {
        return this.table?.recipe as unknown as Recipe | undefined
    }

    get undoable(): boolean {
        return this.#before.at(-1)?.name === this.name
    }

    async load(name: string): Promise<void> {
        try {
            this.list = await api.tables(this.folio)
            this.failure = ''
        } catch (reason) {
            this.failure = said(reason)
        }
        this.loading = false
        this.open(this.list.some((t) => t.name === name) ? name : (this.list[0]?.name ?? ''))
    }

    open(name: string): void {
        this.name = name
        this.sort = undefined
        this.down = this.mendedOnly = false
        this.filter = undefined
        this.refresh()
    }

    /** The rows are asked for anew. */
    refresh(): void {
        this.#turn += 1
        this.#asked = {}
        this.#pages = {}
        this.total = this.table?.rows ?? 0
        if (this.table) void this.#ask(0)
    }

    sortBy(column: string): void {
        if (this.sort !== column) [this.sort, this.down] = [column, false]
        else if (!this.down) this.down = true
        else [this.sort, this.down] = [undefined, false]
        this.refresh()
    }

    setFilter(filter: Filter | undefined): void {
        this.filter = filter
        this.refresh()
    }

    setMendedOnly(on: boolean): void {
        this.mendedOnly = on
        this.refresh()
    }

    /** The row at a place of the list, if it is there; else it is asked for. */
    row(place: number): Row | undefined {
        return this.#pages[Math.floor(place / PAGE)]?.[place % PAGE]
    }

    /** See to it that the rows of a span are there. */
    need(first: number, last: number): void {
        for (let page = Math.floor(first / PAGE); page <= Math.floor(last / PAGE); page++) void this.#ask(page)
    }

    async #ask(page: number): Promise<void> {
        if (this.#asked[page] || !this.table) return
        this.#asked[page] = true
        const turn = this.#turn
        try {
            const found = await api.tableRows(this.folio, this.name, {
                start: page * PAGE,
                count: PAGE,
                sort: this.sort,
                down: this.down,
                only: this.mendedOnly ? 'mended' : '',
                ...this.filter
            })
            if (turn !== this.#turn) return
            this.total = found.total
            const pages: Record<number, Row[]> = { ...this.#pages, [page]: rowsOf(found) }
            const far = Object.keys(pages).filter((key) => Math.abs(Number(key) - page) > KEPT_PAGES / 2)
            for (const key of Object.keys(pages).length > KEPT_PAGES ? far : []) {
                // eslint-disable-next-line @typescript-eslint/no-dynamic-delete
                delete pages[Number(key)]
                this.#asked[Number(key)] = false
            }
            this.#pages = pages
        } catch (reason) {
            if (turn === this.#turn) this.failure = said(reason)
        }
    }

    async bringIn(name: string, data: Blob, recipe?: Recipe): Promise<boolean> {
        return this.#busily(async () => {
            const put = await api.putTable(this.folio, name, data, recipe)
            this.#take(put)
            this.open(put.name)
        })
    }

    /** Whether the work was done; why not is said. */
    async #busily(work: () => Promise<void>): Promise<boolean> {
        this.busy = true
        try {
            await work()
            return true
        } catch (reason) {
            notices.say(said(reason))
            return false
        } finally {
            this.busy = false
        }
    }

    /** Another recipe for the open table; it can be taken back. */
    async mend(recipe: Recipe, remember = true): Promise<boolean> {
        const table = this.table
        const before = this.recipe
        if (!table || !before) return false
        return this.#busily(async () => {
            const shown = await api.mendTable(this.folio, table.name, table.number, recipe)
            if (remember) this.#before = [...this.#before, { name: table.name, recipe: before }].slice(-50)
            this.#take(shown)
            this.refresh()
        })
    }

    async undo(): Promise<void> {
        const last = this.#before.at(-1)
        if (last?.name !== this.name) return
        if (await this.mend(last.recipe, false)) this.#before = this.#before.slice(0, -1)
    }

    async rename(to: string): Promise<void> {
        const table = this.table
        if (!table || !to.trim() || to === table.name) return
        try {
            const shown = await api.renameTable(this.folio, table.name, to.trim())
            this.list = this.list.filter((t) => t.name !== table.name)
            this.#take(shown)
            this.open(shown.name)
        } catch (reason) {
            notices.say(said(reason))
        }
    }

    async remove(): Promise<void> {
        const table = this.table
        if (!table) return
        try {
            await api.removeTable(this.folio, table.name)
            this.list = this.list.filter((t) => t.name !== table.name)
            this.open(this.list[0]?.name ?? '')
        } catch (reason) {
            notices.say(said(reason))
        }
    }

    #take(shown: TableShown): void {
        const others = this.list.filter((t) => t.name !== shown.name)
        this.list = [...others, shown].sort((a, b) => a.name.localeCompare(b.name))
    }
}

function rowsOf(found: TableRows): Row[] {
    return found.numbers.map((number, k) => ({
        number,
        cells: found.cells[k] as Row['cells'],
        original: found.original[k] as Row['original'],
        errors: Object.fromEntries(Object.entries(found.errors).map(([name, errors]) => [name, errors[k] ?? 0]))
    }))
}

export function said(reason: unknown): string {
    return wordsOf(reason)
}
