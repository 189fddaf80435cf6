/** How a file is read and what was mended in it; the shape of the server's recipe. */
export interface ColumnRecipe {
    source: string
    name: string
    kind: 'number' | 'time' | 'text'
    unit: string | null
    description: string
    format: string | null
    since: string | null
    kept: boolean
    carries: string | null
    uncertain: boolean
    gaps: number[]
}
/** What may be read otherwise; `change` of the recipe, or of the column whose source it names, is the other reading. */
export interface Doubt {
    key: string
    text: string
    column: string | null
    other: string
    change: Record<string, unknown>
}
export interface Correction {
    row: number
    column: string
    value: number | null
}
export interface Computed {
    name: string
    formula: string
    unit: string | null
    description: string
}
export interface Recipe {
    format: 'text' | 'xlsx' | 'json' | 'parquet'
    encoding: string
    delimiter: string
    decimal: string
    quote: string
    comment: string | null
    header: boolean
    skip: number
    units_row: boolean
    sheet: string | null
    sheets: string[]
    cells: string | null
    columns: ColumnRecipe[]
    corrections: Correction[]
    excluded: number[]
    computed: Computed[]
    doubts: Doubt[]
    settled: string[]
}
export interface Summary {
    count?: number
    gaps?: number
    low?: number
    high?: number
    mean?: number
    median?: number
    sd?: number | null
    bins?: number[]
    distinct?: number
    left_out?: number
    common?: [string, number][]
}

export const DELIMITERS: [string, string][] = [
    [',', 'comma'],
    [';', 'semicolon'],
    ['\t', 'tab'],
    ['|', 'bar'],
    [' ', 'blanks']
]
export const ENCODINGS = ['utf-8', 'utf-16', 'cp1252', 'latin-1']

/** What nobody has decided yet. */
export function openDoubts(recipe: Recipe): Doubt[] {
    return recipe.doubts.filter((d) => !recipe.settled.includes(d.key))
}

/** The recipe with a doubt decided: by its other reading, or as it is. */
export function decided(recipe: Recipe, doubt: Doubt, other: boolean): Recipe {
    const settled = [...recipe.settled.filter((k) => k !== doubt.key), doubt.key]
    if (!other) return { ...recipe, settled }
    if (doubt.column === null) return { ...recipe, settled, ...doubt.change }
    const columns = recipe.columns.map((c) => (c.source === doubt.column ? { ...c, ...doubt.change } : c))
    return { ...recipe, settled, columns }
}

/** The recipe with one row counted or not. */
export function withRow(recipe: Recipe, row: number, counts: boolean): Recipe {
    const excluded = recipe.excluded.filter((r) => r !== row)
    if (!counts) excluded.push(row)
    return { ...recipe, excluded: excluded.sort((a, b) => a - b) }
}

/** The recipe with another value in a cell; `undefined` takes a correction back. */
export function withCell(recipe: Recipe, row: number, column: string, value: number | null | undefined): Recipe {
    const corrections = recipe.corrections.filter((c) => c.row !== row || c.column !== column)
    if (value !== undefined) corrections.push({ row, column, value })
    return { ...recipe, corrections }
}

/** What was typed into a cell: a number with either decimal sign, nothing for a gap; `undefined` where it is neither. */
export function typedNumber(text: string): number | null | undefined {
    const plain = text.trim().replace('−', '-').replace(',', '.')
    if (plain === '' || plain.toLowerCase() === 'gap') return null
    const value = Number(plain)
    return Number.isFinite(value) ? value : undefined
}

/** A column renamed everywhere that the recipe names it. */
export function withColumn(recipe: Recipe, name: string, change: Partial<ColumnRecipe>): Recipe {
    const columns = recipe.columns.map((c) => (c.kept && c.name === name ? { ...c, ...change } : c))
    const to = change.name
    if (to === undefined || to === name) return { ...recipe, columns }
    return {
        ...recipe,
        columns,
        corrections: recipe.corrections.map((c) => (c.column === name ? { ...c, column: to } : c))
    }
}

/** Bars of a histogram as one path in a box of that size. */
export function barsPath(bins: number[], width: number, height: number): string {
    const most = Math.max(...bins, 1)
    const step = width / bins.length
    return bins
        .map((n, k) => {
            const tall = n ? Math.max(1, (n / most) * height) : 0
            return `M${(k * step).toFixed(2)} ${height}v${(-tall).toFixed(2)}h${(step * 0.82).toFixed(2)}v${tall.toFixed(2)}z`
        })
        .join('')
}
