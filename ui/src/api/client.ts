import type { SceneTold } from '../desk/stage/space/scene'
import { notices } from '../lib/notices.svelte'
import type { components } from './schema'

type Schemas = components['schemas']
export type DeletedFolio = Schemas['DeletedShelf']['folios'][number]
export type FolioCard = Schemas['FolioCard']
export type Folio = Schemas['Folio']
export type Words = Schemas['Words']
export type HandbookPage = Schemas['Handbook']['pages'][number]
export type TableShown = Schemas['TableShown']
export type ColumnShown = TableShown['columns'][number]
export type TableRows = Schemas['TableRows']
export type TableCompared = Schemas['TableCompared']
export type PlaceRead = Schemas['PlaceRead']
export type Dressing = Schemas['Dressing']
export type ProofChecked = Schemas['ProofChecked']
export interface HandAction {
    do: string
    line: number
    more: Record<string, unknown>
}
export type FigureFormat =
    'svg' | 'pdf' | 'eps' | 'png' | 'tiff' | 'csv' | 'xlsx' | 'tex' | 'txt' | 'stl' | 'ply' | 'obj' | 'glb' | 'geojson'
export type Dpi = 150 | 300 | 600 | 1200

/** A refusal by the server: a sentence for people, a code for programs. */
export class Refusal extends Error {
    readonly status: number
    readonly code: string
    /** With a conflict: the folio as it is now. */
    readonly folio: Folio | undefined
    /** Of a folio that was saved all the same. */
    readonly version: number | undefined

    /** Whether it goes by itself: the server, its database or its engine is being started again, is busy, or has no room. */
    get passing(): boolean {
        return this.status === 0 || this.status === 503 || this.status === 507
    }

    constructor(status: number, code: string, message: string, folio?: Folio, version?: number) {
        super(message)
        this.status = status
        this.code = code
        this.folio = folio
        this.version = version
    }
}

/** Browsers send a request of up to 64 kB to its end even when the page is left. */
const KEPT_ALIVE_BYTES = 60_000

let token: Promise<string> | undefined
const changing: Promise<unknown>[] = []

/** Changes under way: what is read after them should know of them. */
function changed<T>(work: Promise<T>): Promise<T> {
    changing.push(work)
    const done = () => void changing.splice(changing.indexOf(work), 1)
    work.then(done, done)
    return work
}

async function freshToken(): Promise<string> {
    const answer = await fetch('/api/session')
    const session = (await answer.json()) as Schemas['Session']
    if (session.notice) notices.say(session.notice)
    return session.csrf_token
}

async function call<T>(
    method: string,
    path: string,
    body?: unknown,
    again = true,
    answered: 'json' | 'text' = 'json'
): Promise<T> {
    const headers: Record<string, string> = { Accept: 'application/json' }
    if (method !== 'GET') {
        token ??= freshToken()
        try {
            headers['X-CSRFToken'] = await token
        } catch {
            token = undefined
            throw unreachable()
        }
    }
    if (body !== undefined)
        headers['Content-Type'] = body instanceof Blob ? 'application/octet-stream' : 'application/json'
    let answer: Response
    try {
        const text = body === undefined || body instanceof Blob ? body : JSON.stringify(body)
        // A file is no part of what must not be lost when the page is left, and browsers refuse to keep its sending alive.
        const keepalive = method !== 'GET' && !(text instanceof Blob) && (text?.length ?? 0) < KEPT_ALIVE_BYTES
        answer = await fetch(path, { method, headers, keepalive, ...(text === undefined ? {} : { body: text }) })
    } catch {
        throw unreachable()
    }
    if (answer.status === 204) return undefined as T
    const text = await answer.text()
    if (answer.ok && answered === 'text') return text as T
    let plain: unknown
    try {
        plain = JSON.parse(text)
    } catch {
        throw new Refusal(answer.status, 'unreadable', 'the server gave an answer that cannot be read')
    }
    if (answer.ok) return plain as T
    const trouble = plain as Schemas['HTTPError'] & { folio?: Folio; version?: number }
    if (trouble.code === 'token' && again) {
        // The server was started anew with another secret: ask for a new token once.
        token = undefined
        return call(method, path, body, false, answered)
    }
    throw new Refusal(answer.status, trouble.code, trouble.message, trouble.folio, trouble.version)
}

function unreachable(): Refusal {
    return new Refusal(0, 'unreachable', 'the server does not answer; what you write stays here until it does')
}

/** Where a table of a folio is found. */
export function tableAddress(id: number, name: string): string {
    return `/api/folios/${id}/tables/${encodeURIComponent(name)}`
}

/** Values for the query of an address; what is not set is left out. */
function asked(values: Record<string, unknown>): string {
    const query = new URLSearchParams()
    for (const [key, value] of Object.entries(values)) {
        if (value === undefined || value === null || value === '' || value === false) continue
        query.set(key, typeof value === 'object' ? JSON.stringify(value) : String(value as string | number | boolean))
    }
    const text = query.toString()
    return text ? `?${text}` : ''
}

export const api = {
    shelf: async () => {
        await Promise.allSettled(changing)
        return (await call<Schemas['Shelf']>('GET', '/api/folios')).folios
    },
    deleted: () => call<Schemas['DeletedShelf']>('GET', '/api/folios/deleted'),
    folio: (id: number) => call<Folio>('GET', `/api/folios/${id}`),
    create: (title: string, script = '') => call<Folio>('POST', '/api/folios', { title, script }),
    change: (id: number, version: number, change: { title?: string; script?: string }) =>
        changed(call<FolioCard>('PATCH', `/api/folios/${id}`, { version, ...change })),
    duplicate: (id: number) => call<FolioCard>('POST', `/api/folios/${id}/duplicate`),
    remove: (id: number) => call<undefined>('DELETE', `/api/folios/${id}`),
    restore: (id: number) => call<FolioCard>('POST', `/api/folios/${id}/restore`),
    run: (id: number, script: string, version: number, part?: string, onwards = false) =>
        call<Schemas['Begun']>('POST', `/api/folios/${id}/runs`, {
            script,
            version,
            ...(part === undefined ? {} : { part, onwards })
        }),
    walk: (id: number, script: string, stops: { line: number; condition: string | null }[]) =>
        call<Schemas['Begun']>('POST', `/api/folios/${id}/walks`, { script, stops }),
    preview: (id: number, script: string, actions: HandAction[] = []) =>
        call<Schemas['Preview']>('POST', `/api/folios/${id}/previews`, { script, actions }),
    /** Fits proposed for the points that a line draws. */
    fits: (
        id: number,
        script: string,
        line: number,
        more: { formula?: string; starts?: Record<string, number>; at?: number } = {}
    ) => call<Schemas['FitsFound']>('POST', `/api/folios/${id}/fits`, { script, line, ...more }),
    /** What the script says of a drawn thing now. */
    dressing: (script: string, line: number, window: number, figure: number) =>
        call<Dressing>('POST', '/api/dressings', { script, line, window, figure }),
    ink: (script: string, actions: HandAction[]) => call<Schemas['Edits']>('POST', '/api/edits', { script, actions }),
    /** What a curve of a kept figure says at a place. */
    read: (record: number, figure: string, series: string, place: { x: number; y: number; z?: number }) =>
        call<PlaceRead>('POST', '/api/figures/probe', { record_id: record, figure, series, ...place }),
    /** The windows on space of a kept figure, to be turned on screen. */
    scene: (record: number, figure: string) =>
        call<SceneTold>('GET', `/api/records/${record}/figures/${encodeURIComponent(figure)}/scene`),
    /** A kept figure with windows on space seen from elsewhere. */
    turned: (record: number, figure: string, views: Schemas['Turned.Seen'][]) =>
        call<Schemas['TurnedFigure']>('POST', `/api/records/${record}/figures/${encodeURIComponent(figure)}/turned`, {
            views
        }),
    /** Where an exported figure came from. */
    proof: (finding: object) => call<ProofChecked>('POST', '/api/proofs', { finding }),
    fault: (text: string, at: string) => call<undefined>('POST', '/api/faults', { text, at }),
    trace: (data: Blob) => call<Schemas['Origin']>('POST', '/api/figures/origin', data),
    rename: (script: string, line: number, column: number, name: string) =>
        call<Schemas['Edits']>('POST', '/api/renamings', { script, line, column, name }),
    /** All of a value as CSV. */
    value: (id: number, script: string, name: string) =>
        call<string>('POST', `/api/folios/${id}/values`, { script, name }, true, 'text'),
    tables: async (id: number) => (await call<Schemas['TableFiles']>('GET', `/api/folios/${id}/tables`)).tables,
    table: (id: number, name: string) => call<TableShown>('GET', tableAddress(id, name)),
    /** What a file would be as a table; nothing is kept. */
    look: (id: number, name: string, data: Blob, recipe?: object) =>
        call<Schemas['Look']>(
            'POST',
            `/api/folios/${id}/tables/preview/${encodeURIComponent(name)}${asked({ recipe })}`,
            data
        ),
    putTable: (id: number, name: string, data: Blob, recipe?: object) =>
        call<TableShown>('PUT', `${tableAddress(id, name)}${asked({ recipe })}`, data),
    mendTable: (id: number, name: string, number: number, recipe: object) =>
        call<TableShown>('PATCH', tableAddress(id, name), { number, recipe }),
    renameTable: (id: number, name: string, to: string) =>
        call<TableShown>('POST', `${tableAddress(id, name)}/name`, { name: to }),
    tableRows: (id: number, name: string, query: Record<string, unknown>) =>
        call<TableRows>('GET', `${tableAddress(id, name)}/rows${asked(query)}`),
    columnSummary: (id: number, name: string, column: string) =>
        call<Record<string, unknown>>('GET', `${tableAddress(id, name)}/summaries/${encodeURIComponent(column)}`),
    tableVersion: (id: number, name: string, number: number) =>
        call<TableCompared>('GET', `${tableAddress(id, name)}/versions/${number}`),
    removeTable: (id: number, name: string) => call<undefined>('DELETE', tableAddress(id, name)),
    logger: (after: number) => call<Schemas['LoggerSeen']>('GET', `/api/logger${asked({ after })}`),
    beginLogger: (run: Schemas['Capture']) => call<Schemas['LoggerSeen']>('POST', '/api/logger', run),
    capture: (id: number, name: string) =>
        call<{ name: string; rows: number }>('POST', `/api/folios/${id}/logger/tables`, { name }),
    handbook: async (q = '') =>
        (await call<Schemas['Handbook']>('GET', `/api/handbook${q ? `?q=${encodeURIComponent(q)}` : ''}`)).pages,
    shown: async (page: string) => {
        const answer = await fetch(`/handbook-shown/${encodeURIComponent(page)}.json`)
        return answer.ok ? ((await answer.json()) as ExampleShown[]) : []
    },
    next: async (script: string) => (await call<Schemas['NextSteps']>('POST', '/api/next', { script })).lines,
    course: async () => (await call<Schemas['Course']>('GET', '/api/course')).lessons,
    tasksDone: async (lesson: string, record_id: number) =>
        (await call<Schemas['TasksDone']>('POST', `/api/course/${lesson}/done`, { record_id })).done,
    check: async (script: string) => (await call<Schemas['Checked']>('POST', '/api/check', { script })).messages,
    stop: (run: string) => call<undefined>('POST', `/api/runs/${run}/stop`),
    words: () => call<Words>('GET', '/api/language')
}

/** What an example of the handbook gives, as it was worked out when the page was built. */
export interface ExampleShown {
    findings: { number: number; evidence: 'proven' | 'checked' | 'open'; text: string; statement: string }[]
    more: number
    figures: string[]
}
export type LessonShown = Schemas['Course.LessonShown']
export type StartShown = Schemas['Words.StartShown']

export function figureAddress(
    record: number,
    name: string,
    format: FigureFormat,
    options: { dpi?: Dpi; grey?: boolean; download?: boolean; step?: number } = {}
): string {
    const query = new URLSearchParams()
    if (options.dpi) query.set('dpi', String(options.dpi))
    if (options.grey) query.set('grey', 'true')
    if (options.step) query.set('step', String(options.step))
    if (options.download) query.set('download', 'true')
    const text = query.toString()
    return `/api/records/${record}/figures/${encodeURIComponent(name)}.${format}${text ? `?${text}` : ''}`
}
