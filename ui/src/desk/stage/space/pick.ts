/** What of a window on space lies under the pointer: needs no graphics card. */

import type { Place } from '../geometry'
import { axesOf, dot, held, type Axes, type Frame, type Vector, type View } from './camera'
import type { PlaneAt } from './cut'
import type { Solid, SpaceWindow } from './scene'

export interface Hit {
    solid: Solid
    place: Vector
    params: [number, number] | undefined
}

export interface Seen {
    /** Where the box stands. */
    frame: Frame
    view: View
    zoom: number
    shift: Place
    /** All triangles, not the few that turn fluidly. */
    fine: boolean
    plane?: PlaneAt | undefined
    /** Its section, in straight pieces. */
    cut: [Vector, Vector][]
}

/** The surface under a place of a window that is `height` px high, nearest to the viewer. */
export function hitAt(window: SpaceWindow, frame: Frame, height: number, at: Place, seen: Seen): Hit | undefined {
    const axes = axesOf(seen.view)
    const factor = seen.frame.factor * seen.zoom
    const wanted = {
        x: (at.x - seen.frame.origin[0] - seen.shift.x) / factor,
        y: (height - at.y - seen.frame.origin[1] + seen.shift.y) / factor
    }
    let best: (Hit & { depth: number }) | undefined
    for (const solid of window.things) {
        if (solid.kind !== 'surface') continue
        const found = hitOf(solid, frame, axes, wanted)
        if (found && (!best || found.depth > best.depth)) best = found
    }
    return best
}

function hitOf(solid: Solid, frame: Frame, axes: Axes, at: Place): (Hit & { depth: number }) | undefined {
    const { vertices, triangles, params } = solid.coarse
    const count = vertices.length / 3
    const [x, y, z] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)]
    for (let k = 0; k < count; k++) {
        const p = held(frame, [vertices[3 * k] as number, vertices[3 * k + 1] as number, vertices[3 * k + 2] as number])
        x[k] = dot(p, axes.across) - at.x
        y[k] = dot(p, axes.up) - at.y
        z[k] = dot(p, axes.towards)
    }
    let best: { depth: number; corners: [number, number, number]; shares: Vector } | undefined
    for (let t = 0; t < triangles.length; t += 3) {
        const [a, b, c] = [triangles[t] as number, triangles[t + 1] as number, triangles[t + 2] as number]
        const [xa, ya] = [x[a] as number, y[a] as number]
        const [ux, uy] = [(x[b] as number) - xa, (y[b] as number) - ya]
        const [vx, vy] = [(x[c] as number) - xa, (y[c] as number) - ya]
        const turn = ux * vy - uy * vx
        if (!turn) continue
        const s = (-xa * vy + ya * vx) / turn
        const r = (-ya * ux + xa * uy) / turn
        if (s < 0 || r < 0 || s + r > 1) continue
        const depth = (z[a] as number) * (1 - s - r) + (z[b] as number) * s + (z[c] as number) * r
        if (!best || depth > best.depth) best = { depth, corners: [a, b, c], shares: [1 - s - r, s, r] }
    }
    if (!best) return undefined
    const mixed = (values: Float32Array, width: number, k: number) =>
        best.corners.reduce(
            (sum, corner, j) => sum + (values[width * corner + k] as number) * (best.shares[j] as number),
            0
        )
    return {
        solid,
        place: [mixed(vertices, 3, 0), mixed(vertices, 3, 1), mixed(vertices, 3, 2)],
        params: params && [mixed(params, 2, 0), mixed(params, 2, 1)],
        depth: best.depth
    }
}
