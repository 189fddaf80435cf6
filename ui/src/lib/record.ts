/** The record of a run, as record.json has it. */

export type Evidence = 'proven' | 'checked' | 'open'

export interface FoundValue {
    x?: number
    x_high?: number
    value?: number | string | boolean | null | unknown[]
    passed?: boolean
    interval?: [string, string]
    exact?: string | string[] | Record<string, string>
    unit?: string
    text?: string
    family?: string
    /** In a loop: which pass, and where its loops were. */
    pass?: number
    at?: Record<string, number | string>
    evidence?: Evidence
    kind?: string
    multiplicity?: number | null
    residual?: number
    length?: number
    at_end?: boolean
    /** minimum, maximum, saddle or inflection. */
    what?: string
    shape?: string
    overall?: boolean
    border?: string
    value_interval?: [string, string]
    /** Of places in several variables; null where none is known. */
    intervals?: Record<string, [string, string] | null>
    /** Digits that were asked for, by name of the number. */
    digits?: Record<string, string>
    /** An infinite limit. */
    limit?: 'infinity' | '-infinity'
    side?: 'left' | 'right'
    low?: number | null
    high?: number | null
    /** Of what rests on a fit. */
    standard_error?: number
    /** Of a fit. */
    parameters?: FitParameter[]
    residual_sum_of_squares?: number
    residual_standard_deviation?: number | null
    degrees_of_freedom?: number
    r_squared?: number | null
    adjusted_r_squared?: number | null
    aicc?: number | null
    reduced_chi_square?: number | null
    correlation?: number[][]
    rivals?: { values: Record<string, number>; residual_sum_of_squares: number; suspect: boolean }[]
}

export interface FitParameter {
    name: string
    value: number
    standard_error: number
    low: number | null
    high: number | null
    unit?: string
    at_limit?: boolean
    profile?: [number, number][]
}

/** A small picture of the function near a place: values at evenly spaced places. */
export interface Seen {
    x: number
    low: number
    high: number
    y: (number | null)[]
}

export interface Finding {
    number: number
    line: number
    name: string | null
    noun: string
    variable?: string
    variable_latex?: string
    statement: string
    values: FoundValue[]
    evidence: Evidence
    complete: boolean
    summary: string
    method: string
    notes: string[]
    latex?: string
    passes?: number
    closeups?: Seen[]
    /** What a fit leaves over. */
    fit?: { x: number[]; residuals: number[]; variable: string }
    strip?: [low: number, high: number, why: string][]
    /** What is proven of it rests on this: plain data, which the verifier checks. */
    certificate?: { parts: object[] }
}

/** A drawn thing as the stage knows it. */
export interface ShownSeries {
    id: string
    line: number
    kind:
        | 'curve'
        | 'points'
        | 'line'
        | 'bars'
        | 'band'
        | 'rule'
        | 'text'
        | 'mark'
        | 'contours'
        | 'surface'
        | 'path'
        | 'plane'
    label: string | null
    panel: number
    colour: string
    right?: boolean
    /** Whether a reading is one of the function itself. */
    exact?: boolean
    text?: string
}

/** Something that can be pointed at: left, top, width, height in px of the sheet. */
export interface ShownBox {
    kind: string
    px: [number, number, number, number]
    panel: number
    line: number
    series: string
}

export interface FigureRecord {
    name: string
    title: string | null
    line: number
    files: Record<string, string>
    caption?: string
    layout: {
        width_mm: number
        height_mm: number
        panels?: unknown[]
        series?: ShownSeries[]
        boxes?: ShownBox[]
    }
    notes: { line: number; text: string }[]
    description: string
}

export interface Edit {
    line: number
    column: number
    end_line?: number
    end_column: number
    text: string
}

export interface Fix {
    label: string
    edits: Edit[]
}

export interface Message {
    severity: 'error' | 'warning' | 'note'
    code: string
    line: number
    column: number
    end_column: number
    text: string
    fix?: Fix
    fixes?: Fix[]
}

export interface Reading {
    line: number
    latex: string
    text?: string
}

/** A value as the names sheet and the walk show it. */
export interface SeenValue {
    kind: 'number' | 'list' | 'text' | 'truth' | 'point' | 'table' | 'function' | 'finding'
    text: string
    size?: number
    unit?: string
    low?: number
    high?: number
    head?: string[]
    rows?: string[][]
}

export interface SeenName extends SeenValue {
    name: string
}

export interface WalkStep {
    line: number
    set: (SeenName & { depth: number })[]
    gone?: { name: string; depth: number }[]
    depth?: number
    call?: string
    note?: string
    figure?: string
    drawn?: number
    findings: number
    stop?: boolean
}

export interface Trace {
    steps: WalkStep[]
    seen: number
    thinned: boolean
}

export interface RunRecord {
    duration_s: number
    findings: Finding[]
    figures: FigureRecord[]
    readings: Reading[]
    messages: Message[]
}
