/** Where a plane passes through triangles: the section while the hand slides it, before it is inked and worked out exactly. */

import type { Shape, SpaceWindow } from './scene'
import type { Vector } from './camera'

export interface PlaneAt {
    /** 0, 1, 2: across the x, y or z axis. */
    axis: number
    value: number
}

/** Pieces of the section of all surfaces. */
export function cutsOf(window: SpaceWindow, plane: PlaneAt): [Vector, Vector][] {
    return window.things.filter((s) => s.kind === 'surface').flatMap((s) => cutOf(s.coarse, plane))
}

/** Straight pieces of the section, two ends each. */
export function cutOf(shape: Shape, plane: PlaneAt): [Vector, Vector][] {
    const { vertices, triangles } = shape
    const found: [Vector, Vector][] = []
    const corner = (k: number): Vector => [
        vertices[3 * k] as number,
        vertices[3 * k + 1] as number,
        vertices[3 * k + 2] as number
    ]
    for (let t = 0; t < triangles.length; t += 3) {
        const ends: Vector[] = []
        for (let e = 0; e < 3; e++) {
            const [i, j] = [triangles[t + e] as number, triangles[t + ((e + 1) % 3)] as number]
            const a = (vertices[3 * i + plane.axis] as number) - plane.value
            const b = (vertices[3 * j + plane.axis] as number) - plane.value
            if (a > 0 === b > 0) continue
            const [p, q, s] = [corner(i), corner(j), a / (a - b)]
            ends.push([p[0] + (q[0] - p[0]) * s, p[1] + (q[1] - p[1]) * s, p[2] + (q[2] - p[2]) * s])
        }
        if (ends.length === 2) found.push(ends as [Vector, Vector])
    }
    return found
}
