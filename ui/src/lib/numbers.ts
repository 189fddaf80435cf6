import type { FoundValue } from './record'

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

/** A number rounded by its standard uncertainty, to the second digit of that. */
export function uncertainText(value: number, error: number): string {
    const place = Math.floor(Math.log10(error)) - 1
    if (place < 0 && place > -20 && Math.abs(value) < 1e15)
        return `${value.toFixed(-place).replace('-', '−')} ± ${error.toFixed(-place)}`
    const digits = Math.max(Math.floor(Math.log10(Math.max(Math.abs(value), error))) - place + 1, 2)
    return `${value.toPrecision(Math.min(digits, 17)).replace('-', '−')} ± ${numberText(error, 2)}`
}

/** A number with its standard uncertainty, where it has one. */
export function withError(text: string, error: number | undefined): string {
    return error ? `${text} ± ${numberText(error, 2)}` : text
}

function trimmed(digits: string): string {
    return digits.includes('.') ? digits.replace(/0+$/, '').replace(/\.$/, '') : digits
}

/** A formula in more pieces than a line holds, taken apart: what stands before them, then each piece and where it holds. */
export function longPieces(latex: string | undefined): { head: string; rows: string[][] } | undefined {
    const [, head, body] = /^(.*?)\\begin\{cases\}(.*)\\end\{cases\}$/s.exec(latex ?? '') ?? []
    if (head === undefined || body === undefined || body.includes('\\begin{cases}')) return undefined
    const rows = body.split(' \\\\ ').map((row) => row.split(' & '))
    return rows.length > 3 ? { head, rows } : undefined
}

/** What a place is, in words: a maximum, and whether it is the highest of all; else its kind. */
export function whatText(row: FoundValue): string {
    if (!row.what) return row.kind === 'end' ? '' : (row.kind ?? '')
    return row.overall ? `${row.what}, ${row.what === 'maximum' ? 'highest' : 'lowest'} of all` : row.what
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
