/** The lines of a drawing, read from its SVG: what can be pointed at, and what moves under the hand. */

import type { Place } from './geometry'

const PX_PER_PT = 96 / 72

export interface DrawnLine {
    /** The id of the drawn thing; its parts have endings ("s2-marks"). */
    id: string
    /** In px of the sheet at 96 an inch. */
    lines: Place[][]
    /** Places of marks. */
    marks: Place[]
    /** The path data as they are, in points of the sheet. */
    paths: { d: string; stroke: string; fill: string; width: number; dash: string; opacity: number }[]
}

export const NO_LINES: Map<string, DrawnLine> = new Map()

const NUMBERS = /[A-Za-z]|-?\d*\.?\d+(?:e[+-]?\d+)?/g

/** Straight pieces of path data; curves count as their ends. */
export function linesOf(d: string): Place[][] {
    const found: Place[][] = []
    let line: Place[] = []
    let command = 'M'
    const parts = d.match(NUMBERS) ?? []
    for (let k = 0; k < parts.length;) {
        const part = parts[k] as string
        if (/[A-Za-z]/.test(part)) {
            command = part
            k += 1
            if (command === 'z' || command === 'Z') {
                if (line[0]) line.push(line[0])
            }
            continue
        }
        const count = command === 'C' ? 6 : command === 'Q' ? 4 : 2
        const [x, y] = [Number(parts[k + count - 2]), Number(parts[k + count - 1])]
        if (command === 'M') {
            line = []
            found.push(line)
            command = 'L'
        }
        line.push({ x: x * PX_PER_PT, y: y * PX_PER_PT })
        k += count
    }
    return found.filter((l) => l.length)
}

function styleOf(node: Element, name: string): string {
    const style = node.getAttribute('data-style') ?? ''
    const match = new RegExp(`(?:^|;)\\s*${name}\\s*:\\s*([^;]+)`).exec(style)
    return match?.[1]?.trim() ?? node.getAttribute(name) ?? ''
}

/** All drawn things of an SVG by their ids. */
export function drawnLines(svg: string): Map<string, DrawnLine> {
    const found = new Map<string, DrawnLine>()
    // Styles are only read here; as attributes of that name they would be applied, which the page's policy forbids.
    const page = new DOMParser().parseFromString(
        svg.replaceAll(' style="', ' data-style="').replace(/<style[^>]*>[^<]*<\/style>/g, ''),
        'image/svg+xml'
    )
    for (const group of page.querySelectorAll('g[id]')) {
        if (!/^s\d+(-(marks|fill|errors|spot))?$/.test(group.id)) continue
        const thing = found.get(group.id) ?? { id: group.id, lines: [], marks: [], paths: [] }
        for (const path of group.querySelectorAll('path')) {
            if (path.closest('defs')) continue
            const d = path.getAttribute('d') ?? ''
            thing.lines.push(...linesOf(d))
            thing.paths.push({
                d,
                stroke: styleOf(path, 'stroke') || 'none',
                fill: styleOf(path, 'fill') || 'none',
                width: Number(styleOf(path, 'stroke-width')) || 1,
                dash: styleOf(path, 'stroke-dasharray'),
                opacity: Number(styleOf(path, 'opacity') || 1)
            })
        }
        for (const use of group.querySelectorAll('use')) {
            const at = { x: Number(use.getAttribute('x')) * PX_PER_PT, y: Number(use.getAttribute('y')) * PX_PER_PT }
            // A filling is drawn once, from the corner of the sheet: it is no mark, and its edge is what can be read.
            const name = (use.getAttribute('xlink:href') ?? use.getAttribute('href') ?? '').slice(1)
            const filled = at.x === 0 ? page.getElementById(name)?.getAttribute('d') : undefined
            if (filled)
                thing.lines.push(...linesOf(filled).map((l) => l.map((p) => ({ x: p.x + at.x, y: p.y + at.y }))))
            else thing.marks.push(at)
        }
        found.set(group.id, thing)
    }
    return found
}
