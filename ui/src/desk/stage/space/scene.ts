/** What stands in a window on space, as the server tells it. */

import type { Vector } from './camera'

interface Packed {
    type: string
    shape: number[]
    data: string
}

interface PackedShape {
    vertices: Packed
    normals?: Packed
    triangles?: Packed
    params?: Packed
    tints?: Packed
}

/** What a solid of a scene is called and how it looks, the same in the packed record and unpacked. */
interface Look {
    id: string
    kind: 'surface' | 'path' | 'points' | 'text' | 'mark' | 'plane'
    line: number
    label: string | null
    text: string | null
    colour: string
    opacity: number
    width: number
    size: number
    scaled: boolean
    banded: boolean
    what: string
}

interface PackedSolid extends Look {
    shape: PackedShape
    coarse: PackedShape | null
    levels: number[] | null
    mesh: [number[], number[]] | null
}

interface PackedWindow {
    azimuth: number
    elevation: number
    proportions: Vector
    stretch: string
    axes: { low: number; high: number; text: string }[]
    colours: { low: number; high: number; text: string; scale: string; threshold: number } | null
    things: PackedSolid[]
    /** Colours from low to high. */
    map: string[]
}

export interface SceneTold {
    windows: Record<string, PackedWindow>
}

export interface Shape {
    vertices: Float32Array
    normals: Float32Array
    triangles: Uint32Array
    params: Float32Array | undefined
    tints: Float32Array | undefined
}

export interface Solid extends Look {
    shape: Shape
    coarse: Shape
    levels: number[]
    mesh: [number[], number[]] | undefined
}

export interface SpaceWindow {
    axes: PackedWindow['axes']
    colours: PackedWindow['colours']
    proportions: Vector
    things: Solid[]
    map: string[]
}

const NORMAL = 32_000

async function unpacked(packed: Packed): Promise<ArrayBuffer> {
    const bytes = Uint8Array.from(atob(packed.data), (c) => c.charCodeAt(0))
    const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream('deflate'))
    return new Response(stream).arrayBuffer()
}

async function floats(packed: Packed | undefined): Promise<Float32Array | undefined> {
    return packed && new Float32Array(await unpacked(packed))
}

/** The triangles of a shape, all turned so that those of a closed one face outwards. */
export function outwards(shape: Pick<Shape, 'vertices' | 'triangles'>): Uint32Array {
    const { vertices, triangles } = shape
    const middle: [number, number, number] = [0, 0, 0]
    vertices.forEach((v, k) => (middle[k % 3] = (middle[k % 3] as number) + v / (vertices.length / 3)))
    let volume = 0
    for (let t = 0; t < triangles.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((j) => {
            const k = 3 * (triangles[t + j] as number)
            return middle.map((m, i) => (vertices[k + i] as number) - m)
        }) as [number[], number[], number[]]
        const [ax, ay, az] = a as [number, number, number]
        const [bx, by, bz] = b as [number, number, number]
        const [cx, cy, cz] = c as [number, number, number]
        volume += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
    }
    if (volume >= 0) return triangles
    return triangles.map((_, k) => triangles[k % 3 === 0 ? k : k % 3 === 1 ? k + 1 : k - 1] as number)
}

async function shapeOf(packed: PackedShape): Promise<Shape> {
    const vertices = (await floats(packed.vertices)) as Float32Array
    const normals = new Float32Array(vertices.length)
    if (packed.normals) new Int16Array(await unpacked(packed.normals)).forEach((v, k) => (normals[k] = v / NORMAL))
    return {
        vertices,
        normals,
        triangles: packed.triangles ? new Uint32Array(await unpacked(packed.triangles)) : new Uint32Array(),
        params: await floats(packed.params),
        tints: await floats(packed.tints)
    }
}

export async function windowOf(told: SceneTold, panel: number): Promise<SpaceWindow | undefined> {
    const window = told.windows[String(panel)]
    if (!window) return undefined
    const things = await Promise.all(
        window.things.map(async (thing): Promise<Solid> => {
            const shape = await shapeOf(thing.shape)
            const coarse = thing.coarse ? await shapeOf(thing.coarse) : shape
            return { ...thing, shape, coarse, levels: thing.levels ?? [], mesh: thing.mesh ?? undefined }
        })
    )
    return { axes: window.axes, colours: window.colours, proportions: window.proportions, things, map: window.map }
}

/** The share of the scale of colours for a number, as the drawing in print has it. */
export function tintShare(colours: NonNullable<PackedWindow['colours']>, value: number): number {
    const { low, high, scale, threshold } = colours
    const through =
        scale === 'logarithmic'
            ? (v: number) => Math.log(Math.max(v, 1e-300))
            : scale === 'signed-logarithmic'
              ? (v: number) => Math.asinh(v / threshold)
              : (v: number) => v
    return (through(value) - through(low)) / (through(high) - through(low))
}
