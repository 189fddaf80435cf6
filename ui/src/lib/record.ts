/** The record of a run, as record.json has it. */

export type Evidence = 'proven' | 'checked' | 'open'

export interface FoundValue {
    x?: number
    x_high?: number
    value?: number | string | boolean | number[]
    passed?: boolean
    interval?: [string, string]
    exact?: string
    evidence?: Evidence
    kind?: string
    multiplicity?: number | null
    residual?: number
    length?: number
    at_end?: boolean
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
}

export interface FigureRecord {
    name: string
    title: string | null
    line: number
    files: Record<string, string>
    layout: { width_mm: number; height_mm: number }
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
}

export interface RunRecord {
    duration_s: number
    findings: Finding[]
    figures: FigureRecord[]
    readings: Reading[]
    messages: Message[]
}
