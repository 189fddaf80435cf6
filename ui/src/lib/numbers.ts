import type { Finding, FoundValue } from './record'

const THIN = '\\,'
const NARROW = '\u202f'

/** Digits in groups of three from the point on, as in printed tables. */
export function grouped(digits: string, gap: string): string {
    const [whole = '', part] = digits.split('.')
    const left = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, gap) : whole
    if (part === undefined) return left
    const right = part.length > 4 ? part.replace(/(\d{3})(?=\d)/g, `$1${gap}`) : part
    return `${left}.${right}`
}

/** A number as LaTeX with that many significant digits. */
export function numberTex(value: number, digits = 10): string {
    if (!Number.isFinite(value)) return value > 0 ? '\\infty' : value < 0 ? '-\\infty' : '\\text{undefined}'
    if (value === 0) return '0'
    const size = Math.abs(value)
    const sign = value < 0 ? '-' : ''
    if (size >= 1e7 || size < 1e-4) {
        const [mantissa = '', exponent = '0'] = size.toExponential(digits - 1).split('e')
        const plain = trimmed(mantissa)
        const power = `10^{${Number(exponent)}}`
        return sign + (plain === '1' ? power : `${grouped(plain, THIN)} \\times ${power}`)
    }
    return sign + grouped(trimmed(Number(size.toPrecision(digits)).toString()), THIN)
}

/** A number as plain text with a true minus sign. */
export function numberText(value: number, digits = 10): string {
    return Number(value.toPrecision(digits)).toString().replace('-', '−')
}

function trimmed(digits: string): string {
    return digits.includes('.') ? digits.replace(/0+$/, '').replace(/\.$/, '') : digits
}

/** A quotient such as -5/6 as LaTeX. */
export function quotientTex(text: string): string {
    const match = /^(-?)(\d+)\/(\d+)$/.exec(text)
    return match ? `${match[1]}\\tfrac{${match[2]}}{${match[3]}}` : rootsTex(text)
}

/** An exact form such as 2√3/3 or π/6 as LaTeX. */
function rootsTex(text: string): string {
    const plain = text.replace(/√(\d+)/g, '\\sqrt{$1}').replaceAll('π', '\\pi ')
    const quotient = /^(-?)([^/+ ]+)\/(\d+)$/.exec(plain)
    return quotient ? `${quotient[1]}\\tfrac{${quotient[2]}}{${quotient[3]}}` : plain.replaceAll('*', '\\,')
}

/** So many places fit into a line with the digits that are shown of each. */
const FIT = 3

/** A formula in more pieces than a line holds, taken apart: what stands before them, then each piece and where it holds. */
export function longPieces(latex: string | undefined): { head: string; rows: string[][] } | undefined {
    const [, head, body] = /^(.*?)\\begin\{cases\}(.*)\\end\{cases\}$/s.exec(latex ?? '') ?? []
    if (head === undefined || body === undefined || body.includes('\\begin{cases}')) return undefined
    const rows = body.split(' \\\\ ').map((row) => row.split(' & '))
    return rows.length > 3 ? { head, rows } : undefined
}

/** What a finding found, as LaTeX in one line; long lists are cut and counted. */
export function resultTex(finding: Finding): string {
    const pieces = longPieces(finding.latex)
    if (pieces) return `${pieces.head}\\text{a formula in ${pieces.rows.length} pieces}`
    if (finding.latex) return finding.latex
    if (finding.passes) return passesTex(finding)
    const first = finding.values[0]
    if (!first) return SEARCHES.includes(finding.noun) ? '\\text{none}' : ''
    if (['values', 'fit', 'interpolation', 'compare'].includes(finding.noun))
        return plainTex(finding.summary.replace(/\.$/, ''))
    if (first.standard_error !== undefined && first.x === undefined && finding.values.length === 1)
        return plainTex(finding.summary)
    if (first.family) return plainTex(first.family)
    if (finding.noun === 'limit') return limitTex(finding)
    if (first.kind === 'span') return plainTex(finding.summary.replace(/^It holds for /, '').replace(/\.$/, ''))
    if (first.intervals || (first.overall && first.x === undefined)) return pointsTex(finding)
    if (finding.noun === 'solution' && first.interval === undefined) return plainTex(finding.summary)
    if ((finding.noun === 'lowest' || finding.noun === 'highest') && !first.intervals)
        return `${valueTex(first, finding)}\\ \\text{ at }\\ ${placesTex(finding)}`
    if (first.what && first.what !== 'inflection' && finding.values.length === 1)
        return `${placesTex(finding)},\\ \\text{ value }\\ ${numberTex(Number(first.value), 10)}`
    if (first.x !== undefined) return placesTex(finding)
    if (finding.noun === 'solution') return plainTex(finding.summary)
    if (first.passed !== undefined) return first.passed ? '\\text{holds}' : '\\text{fails}'
    if (finding.values.length > 1) return listTex(numbers(finding.values), finding.values.length)
    return valueTex(first, finding)
}

const SEARCHES = ['roots', 'crossings', 'solution', 'lowest', 'highest', 'minima', 'maxima', 'extremes', 'inflections']

/** What a place is, in words: a maximum, and whether it is the highest of all; else its kind. */
export function whatText(row: FoundValue): string {
    if (!row.what) return row.kind === 'end' ? '' : (row.kind ?? '')
    return row.overall ? `${row.what}, ${row.what === 'maximum' ? 'highest' : 'lowest'} of all` : row.what
}

function limitTex(finding: Finding): string {
    const [first] = finding.values
    if (!first) return '\\text{none}'
    if (finding.values.length > 1 || (first.value === null && !first.limit)) return '\\text{none}'
    if (first.limit) return first.limit === 'infinity' ? '\\infty' : '-\\infty'
    return valueTex(first, finding)
}

/** The names of the variables of places in several of them. */
export function namesOf(row: FoundValue): string[] {
    if (row.intervals) return Object.keys(row.intervals)
    const known = [
        'value',
        'evidence',
        'kind',
        'overall',
        'what',
        'border',
        'at_end',
        'value_interval',
        'digits',
        'doubt'
    ]
    return Object.keys(row).filter((k) => !known.includes(k))
}

/** Places in several variables: (x, y) = (3, 2). */
function pointsTex(finding: Finding): string {
    const first = finding.values[0]
    if (!first) return ''
    const names = namesOf(first)
    const fit = finding.values.length > 1 && names.length > 1 ? 1 : 2
    const shown = finding.values.slice(0, fit).map((row) => {
        const numbers = names.map((n) => numberTex(Number((row as Record<string, unknown>)[n]), 6))
        return `(${numbers.join(',\\,')})`
    })
    const more = finding.values.length > fit ? `,\\ \\ldots\\ \\text{${finding.values.length} in all}` : ''
    const head = `(${names.slice(0, 3).join(',')}${names.length > 3 ? ',\\ldots' : ''}) = ${shown.join(',\\ ')}${more}`
    return ['lowest', 'highest'].includes(finding.noun)
        ? `${numberTex(Number(first.value), 10)}\\ \\text{ at }\\ ${head}`
        : head
}

function valueTex(row: FoundValue, finding: Finding): string {
    const value = row.value
    const unit = row.unit ? `\\ \\text{${escaped(row.unit)}}` : ''
    if (value === null) return '\\text{gap}'
    if (typeof value === 'boolean') return `\\text{${value}}`
    if (typeof value === 'string') return `\\text{“${escaped(value)}”}`
    if (Array.isArray(value)) {
        if (value.every((v) => typeof v === 'number' || v === null))
            return listTex(value, row.length ?? value.length) + unit
        return plainTex(finding.summary)
    }
    if (typeof value !== 'number') return ''
    const shown = numberTex(value, 12)
    // Whole numbers of many digits stand in full in the evidence.
    return (
        (typeof row.exact === 'string' && row.exact.length <= 26 ? `${quotientTex(row.exact)} = ${shown}` : shown) +
        unit
    )
}

/** The passes of a loop: their numbers in a row, or how many held. */
function passesTex(finding: Finding): string {
    const rows = finding.values
    if (rows.some((r) => r.passed !== undefined)) {
        const held = rows.filter((r) => r.passed).length
        if (rows.length === 1) return held ? '\\text{holds}' : '\\text{fails}'
        return `\\text{${held === rows.length ? `holds in all ${held} passes` : `fails in ${rows.length - held} of ${rows.length} passes`}}`
    }
    if (rows.every((r) => typeof r.value === 'number')) {
        const shown = rows.slice(0, 5).map((r) => numberTex(r.value as number, 6))
        if (rows.length > 5) shown.push(`\\ldots\\ \\text{${finding.passes} passes}`)
        return shown.join(',\\ \\ \\allowbreak ')
    }
    return plainTex(finding.summary)
}

const SPELLED: Record<string, string> = {
    '^': '\\textasciicircum ',
    '~': '\\textasciitilde ',
    '\\': '\\textbackslash '
}

function escaped(text: string): string {
    return text.replace(/[\\{}$&#^_%~]/g, (sign) => SPELLED[sign] ?? `\\${sign}`)
}

/** Words as LaTeX, which may be broken between them. */
function plainTex(text: string): string {
    return text
        .split(/(?<= )/)
        .map((word) => `\\text{${escaped(word)}}`)
        .join('\\allowbreak ')
}

function placesTex(finding: Finding): string {
    const name = finding.variable_latex ?? 'x'
    const all = finding.values
    const digits = all.length > 1 ? 7 : 10
    const shown = all.slice(0, all.length > FIT ? FIT - 1 : FIT).map((v, i) => {
        const where =
            v.x_high === undefined ? placeTex(v, digits) : `${numberTex(v.x ?? 0, 6)} \\ldots ${numberTex(v.x_high, 6)}`
        return `${name}${all.length > 1 ? `_{${i + 1}}` : ''} = ${where}`
    })
    if (all.length > FIT) shown.push(`\\ldots\\ \\text{${all.length} in all}`)
    return shown.join(',\\ \\ \\allowbreak ')
}

function placeTex(value: FoundValue, digits: number): string {
    const x = value.x ?? 0
    // A quotient is shown as one where its decimals never end; 2/5 is 0.4 to everybody.
    if (typeof value.exact === 'string' && value.exact.includes('/') && String(Math.abs(x)).length > 8)
        return quotientTex(value.exact)
    return numberTex(x, digits)
}

function listTex(values: unknown[], length: number): string {
    const shown = values.slice(0, 5).map((v) => (typeof v === 'number' ? numberTex(v, 6) : '\\text{gap}'))
    if (length > 5) shown.push(`\\ldots\\ \\text{${length} in all}`)
    return `[${shown.join(',\\ ')}]`
}

function numbers(values: FoundValue[]): number[] {
    return values.map((v) => (typeof v.value === 'number' ? v.value : NaN))
}

const SHOWN = 18

/** A decimal text cut to so many significant digits, down or up, so that an interval of two only grows. */
export function outward(text: string, up: boolean, digits = SHOWN): string {
    const match = /^(-?)(\d+)(?:\.(\d+))?(e-?\d+)?$/.exec(text)
    if (!match) return text
    const [, sign = '', whole = '', part = '', power = ''] = match
    const lead = /^0*/.exec(whole + part)?.[0].length ?? 0
    const surplus = (whole + part).length - lead - digits
    if (surplus <= 0 || surplus > part.length) return text
    const kept = (whole + part).slice(0, -surplus)
    const away = up !== (sign === '-') && /[1-9]/.test((whole + part).slice(-surplus))
    const number = (BigInt(kept) + (away ? 1n : 0n)).toString().padStart(kept.length, '0')
    const point = number.length - (part.length - surplus)
    return sign + number.slice(0, point) + (point < number.length ? `.${number.slice(point)}` : '') + power
}

/** An interval's ends in groups of three, rounded outward where they are longer than anybody reads. */
export function intervalText(interval: [string, string]): string {
    if (interval[0] === interval[1]) return `exactly ${grouped(minus(interval[0]), NARROW)}`
    const [low, high] = [outward(interval[0], false), outward(interval[1], true)]
    return `[${grouped(minus(low), NARROW)}, ${grouped(minus(high), NARROW)}]`
}

function minus(text: string): string {
    return text.replace('-', '−')
}
