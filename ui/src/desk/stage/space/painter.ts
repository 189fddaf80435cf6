/** A window on space drawn by the graphics card (or the browser's stand-in for one), for as long as the hand moves it.

The light, the colours and the lines are those of the drawing in print, which takes over when the hand rests. */

import {
    BufferAttribute,
    BufferGeometry,
    ColorManagement,
    DataTexture,
    DoubleSide,
    GLSL3,
    GreaterDepth,
    LessEqualDepth,
    LinearFilter,
    LinearSRGBColorSpace,
    Mesh,
    OrthographicCamera,
    Points,
    Scene,
    ShaderMaterial,
    Vector3,
    WebGLRenderer
} from 'three'
import { LineMaterial, type LineMaterialParameters } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import { axesOf, boxOf, edgesOf, held, type Axes, type Frame, type Vector } from './camera'
import type { Seen } from './pick'
import { outwards, tintShare, type Shape, type Solid, type SpaceWindow } from './scene'

ColorManagement.enabled = false

const MOST_LINES = 64
const INK = '#171a21'
const PT = 96 / 72

const VERTEX = `
in float share; in float raw; in vec2 params;
out vec3 vNormal; out float vShare; out float vRaw; out vec2 vParams;
void main() {
    vNormal = mat3(modelViewMatrix) * normal;
    vShare = share; vRaw = raw; vParams = params;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`

/** For so many level lines and mesh lines each way: loops over lines that are not there would cost as much as those that are. */
function fragment(levels: number, us: number, vs: number): string {
    const list = (name: string, count: number) => (count ? `uniform float ${name}[${count}];` : '')
    const each = (count: number, body: string) => (count ? `for (int k = 0; k < ${count}; k++) { ${body} }` : '')
    return `
in vec3 vNormal; in float vShare; in float vRaw; in vec2 vParams;
out vec4 colour;
uniform vec3 ink; uniform float opacity; uniform bool scaled; uniform bool banded; uniform sampler2D map;
${list('levels', levels)} ${list('shares', levels)} ${list('us', us)} ${list('vs', vs)} uniform float point;
float line(float away, float width) { return clamp(width / 2.0 + 0.5 - away, 0.0, 1.0); }
void main() {
    vec3 n = normalize(vNormal);
    bool back = n.z < 0.0;
    if (back) n = -n;
    float lit = 0.5 + 0.5 * dot(n, normalize(vec3(-0.44, 0.62, 0.65)));
    float light = 0.60 + 0.34 * lit * lit + 0.07 * n.z;
    if (back && opacity >= 1.0) light *= 0.93;
    float share = clamp(vShare, 0.0, 1.0);
    if (banded) {
        float low = 0.0; float high = 1.0;
        ${each(levels, 'if (shares[k] <= share) low = max(low, shares[k]); else high = min(high, shares[k]);')}
        share = (low + high) / 2.0;
    }
    vec3 plain = scaled ? texture(map, vec2(share * ${(63 / 64).toFixed(6)} + ${(0.5 / 64).toFixed(6)}, 0.5)).rgb : ink;
    vec3 body = plain * light;
    float drawn = 0.0;
    float rise = max(fwidth(vRaw), 1e-12);
    ${each(levels, 'drawn = max(drawn, 0.9 * line(abs(vRaw - levels[k]) / rise, 0.5 * point));')}
    vec2 along = max(fwidth(vParams), vec2(1e-12));
    ${each(us, 'drawn = max(drawn, 0.55 * line(abs(vParams.x - us[k]) / along.x, 0.35 * point));')}
    ${each(vs, 'drawn = max(drawn, 0.55 * line(abs(vParams.y - vs[k]) / along.y, 0.35 * point));')}
    drawn *= min(1.0, n.z * 6.0);
    // Lines without a sheet have its colours.
    colour = opacity == 0.0 ? vec4(plain, drawn) : vec4(mix(min(body, 1.0), vec3(0.09, 0.10, 0.13), drawn), max(opacity, drawn));
}`
}

const SPOT = `
out vec4 colour; uniform vec3 ink; uniform float opacity;
void main() {
    float away = length(gl_PointCoord - 0.5) * 2.0;
    if (away > 1.0) discard;
    colour = vec4(ink, opacity);
}`

let card: { there: boolean; soft: boolean } | undefined
/** Whether there is a graphics card to draw with, and whether it is software that stands in for one; found out once. */
function graphics(): { there: boolean; soft: boolean } {
    if (card) return card
    try {
        const gl = document.createElement('canvas').getContext('webgl2')
        const told = gl?.getExtension('WEBGL_debug_renderer_info')
        const name = gl && told ? String(gl.getParameter(told.UNMASKED_RENDERER_WEBGL)) : ''
        gl?.getExtension('WEBGL_lose_context')?.loseContext()
        card = { there: !!gl, soft: /swiftshader|llvmpipe|softpipe|software|basic render/i.test(name) }
    } catch {
        card = { there: false, soft: false }
    }
    return card
}

export function webglThere(): boolean {
    return graphics().there
}

export class Painter {
    readonly window: SpaceWindow
    readonly frame: Frame
    #size: [number, number]
    #dots: number
    #ratio = 0
    #soft: boolean
    /** Pixels for a point of paper. */
    #point = { value: 1 }
    #renderer: WebGLRenderer
    #scene = new Scene()
    #camera = new OrthographicCamera(-1, 1, 1, -1, 0, 20)
    #coarse: Mesh[] = []
    #paths: LineSegments2[] = []
    #fine: Mesh[] | undefined
    #box = strokes(0.8, { vertexColors: true, depthWrite: false })
    #plane: Mesh | undefined
    #cut = strokes(1, { color: INK, depthTest: false })
    #map: DataTexture

    /** size: of the window in px of the sheet; dots: of the canvas for one of these. */
    constructor(canvas: HTMLCanvasElement, window: SpaceWindow, frame: Frame, size: [number, number], dots: number) {
        this.window = window
        this.frame = frame
        this.#size = size
        this.#soft = graphics().soft
        this.#dots = dots
        const antialias = !this.#soft
        this.#renderer = new WebGLRenderer({ canvas, antialias, alpha: false, preserveDrawingBuffer: true })
        this.#renderer.outputColorSpace = LinearSRGBColorSpace
        this.#renderer.setClearColor(0xffffff, 1)
        const colours = new Uint8Array(window.map.flatMap((c) => [...bytes(c), 255]))
        this.#map = new DataTexture(colours, window.map.length, 1)
        this.#map.minFilter = this.#map.magFilter = LinearFilter
        this.#map.needsUpdate = true
        this.#box.renderOrder = -1
        this.#scene.add(this.#box, this.#cut)
        for (const solid of window.things) {
            if (solid.kind === 'surface' || solid.kind === 'plane')
                this.#coarse.push(this.#surface(solid, solid.coarse))
            else if (solid.kind === 'path') this.#paths.push(...this.#path(solid))
            else this.#scene.add(...this.#spots(solid))
        }
        this.#scene.add(...this.#coarse, ...this.#paths)
    }

    /** Software smooths nothing while the hand moves, which would halve the frames; at rest it draws twice as finely. */
    #sharpen(fine: boolean): void {
        const ratio = this.#dots * (this.#soft && fine ? 2 : 1)
        this.#point.value = PT * ratio
        if (ratio === this.#ratio) return
        this.#ratio = ratio
        // Thinner than a pixel a line has gaps.
        for (const line of [this.#box, this.#cut, ...this.#paths])
            line.material.linewidth = Math.max(line.userData.width as number, 1.1 / ratio)
        this.#renderer.setPixelRatio(ratio)
        this.#renderer.setSize(this.#size[0], this.#size[1], false)
    }

    draw(seen: Seen): Axes {
        this.#sharpen(seen.fine)
        const axes = axesOf(seen.view)
        const factor = seen.frame.factor * seen.zoom
        const [x, y] = [seen.frame.origin[0] + seen.shift.x, seen.frame.origin[1] - seen.shift.y]
        const camera = this.#camera
        camera.left = -x / factor
        camera.right = (this.#size[0] - x) / factor
        camera.bottom = -y / factor
        camera.top = (this.#size[1] - y) / factor
        camera.up.set(...axes.up)
        camera.position.set(...(axes.towards.map((v) => v * 10) as Vector))
        camera.lookAt(0, 0, 0)
        camera.updateProjectionMatrix()
        if (seen.fine && !this.#fine) {
            this.#fine = this.window.things
                .filter((s) => s.kind === 'surface' || s.kind === 'plane')
                .map((s) => this.#surface(s, s.shape))
            this.#scene.add(...this.#fine)
        }
        for (const mesh of this.#coarse) mesh.visible = !(seen.fine && this.#fine)
        for (const mesh of this.#fine ?? []) mesh.visible = seen.fine
        this.#drawBox(axes)
        this.#slide(seen)
        this.#renderer.render(this.#scene, camera)
        return axes
    }

    close(): void {
        this.#renderer.dispose()
        this.#renderer.forceContextLoss()
    }

    // ------------------------------------------------------------ things

    #places(vertices: Float32Array): Float32Array {
        const found = new Float32Array(vertices.length)
        for (let k = 0; k < vertices.length; k += 3)
            found.set(
                held(this.frame, [vertices[k] as number, vertices[k + 1] as number, vertices[k + 2] as number]),
                k
            )
        return found
    }

    #surface(solid: Solid, shape: Shape): Mesh {
        const geometry = new BufferGeometry()
        const count = shape.vertices.length / 3
        geometry.setAttribute('position', new BufferAttribute(this.#places(shape.vertices), 3))
        geometry.setAttribute('normal', new BufferAttribute(this.#normals(shape.normals), 3))
        const raw = shape.tints ?? Float32Array.from({ length: count }, (_, k) => shape.vertices[3 * k + 2] as number)
        const colours = this.window.colours
        const share = colours && solid.scaled ? raw.map((v) => tintShare(colours, v)) : new Float32Array(count)
        geometry.setAttribute('raw', new BufferAttribute(raw, 1))
        geometry.setAttribute('share', new BufferAttribute(share, 1))
        geometry.setAttribute('params', new BufferAttribute(shape.params ?? new Float32Array(2 * count), 2))
        const clear = solid.opacity < 1
        geometry.setIndex(new BufferAttribute(clear ? outwards(shape) : shape.triangles, 1))
        const [levels, us, vs] = [solid.levels, solid.mesh?.[0] ?? [], solid.mesh?.[1] ?? []].map((v) =>
            v.slice(0, MOST_LINES)
        ) as [number[], number[], number[]]
        const material = new ShaderMaterial({
            glslVersion: GLSL3,
            vertexShader: VERTEX,
            fragmentShader: fragment(levels.length, us.length, vs.length),
            side: DoubleSide,
            // A little back, so that lines that lie on it are not lost in it.
            polygonOffset: true,
            polygonOffsetFactor: 1,
            polygonOffsetUnits: 2,
            transparent: clear,
            depthWrite: !clear,
            // Of what is seen through, first the far side and then the near one.
            forceSinglePass: false,
            uniforms: {
                ink: { value: new Vector3(...bytes(solid.colour).map((v) => v / 255)) },
                opacity: { value: solid.opacity },
                scaled: { value: solid.scaled && colours !== null },
                banded: { value: solid.banded },
                map: { value: this.#map },
                levels: { value: levels },
                shares: { value: colours ? levels.map((v) => tintShare(colours, v)) : levels },
                us: { value: us },
                vs: { value: vs },
                point: this.#point
            }
        })
        const mesh = new Mesh(geometry, material)
        mesh.renderOrder = clear ? 2 : 0
        mesh.frustumCulled = false
        return mesh
    }

    /** A normal goes with the inverse of what places do. */
    #normals(normals: Float32Array): Float32Array {
        const scales = this.frame.box.map(([low, high], k) => (high - low) / (this.frame.proportions[k] as number))
        const found = normals.map((v, k) => v * (scales[k % 3] as number))
        for (let k = 0; k < found.length; k += 3) {
            const size = Math.hypot(found[k] as number, found[k + 1] as number, found[k + 2] as number) || 1
            for (let j = 0; j < 3; j++) found[k + j] = (found[k + j] as number) / size
        }
        return found
    }

    /** Lines as they are, and faintly where something hides them. */
    #path(solid: Solid): LineSegments2[] {
        const places = this.#places(solid.shape.vertices)
        const pieces: number[] = []
        for (let k = 0; k + 5 < places.length; k += 3) {
            const piece = places.subarray(k, k + 6)
            if (piece.every(Number.isFinite)) pieces.push(...piece)
        }
        const color = solid.colour
        const seen = strokes(solid.width, { color, depthFunc: LessEqualDepth })
        const found = [seen]
        if (solid.what !== 'floor')
            found.push(
                strokes(solid.width, {
                    color,
                    depthFunc: GreaterDepth,
                    depthWrite: false,
                    transparent: true,
                    opacity: 0.28
                })
            )
        for (const line of found) put(line, pieces)
        return found
    }

    #spots(solid: Solid): Points[] {
        const geometry = new BufferGeometry()
        geometry.setAttribute('position', new BufferAttribute(this.#places(solid.shape.vertices), 3))
        const size = solid.kind === 'points' ? solid.size : 4
        return [1, 0.28].map((opacity) => {
            const spots = new Points(
                geometry,
                new ShaderMaterial({
                    glslVersion: GLSL3,
                    vertexShader: `uniform float point; void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); gl_PointSize = ${size.toFixed(2)} * point; }`,
                    fragmentShader: SPOT,
                    depthFunc: opacity < 1 ? GreaterDepth : LessEqualDepth,
                    depthWrite: opacity === 1,
                    transparent: opacity < 1,
                    uniforms: {
                        ink: { value: new Vector3(...bytes(solid.colour).map((v) => v / 255)) },
                        opacity: { value: opacity },
                        point: this.#point
                    }
                })
            )
            spots.frustumCulled = false
            return spots
        })
    }

    #drawBox(axes: Axes): void {
        const [places, colours]: [number[], number[]] = [[], []]
        const stroke = (a: Vector, b: Vector, shade: number) => {
            places.push(...held(this.frame, a), ...held(this.frame, b))
            colours.push(...Array(6).fill(shade))
        }
        for (const [a, b] of boxOf(this.frame, axes)) stroke(a, b, 0.67)
        for (const [a, b] of edgesOf(this.frame, axes).edges) stroke(a, b, 0.14)
        put(this.#box, places, colours)
    }

    /** The plane that the hand slides, and its line on the surfaces. */
    #slide({ plane, cut }: Seen): void {
        if (this.#plane) this.#scene.remove(this.#plane)
        this.#plane = undefined
        this.#cut.visible = false
        if (!plane) return
        const [i, j] = [0, 1, 2].filter((n) => n !== plane.axis) as [number, number]
        const corners: Vector[] = []
        for (const [a, b] of [
            [0, 0],
            [1, 0],
            [1, 1],
            [0, 1]
        ] as [0 | 1, 0 | 1][]) {
            const corner: Vector = [0, 0, 0]
            corner[plane.axis] = plane.value
            corner[i] = (this.frame.box[i] as [number, number])[a]
            corner[j] = (this.frame.box[j] as [number, number])[b]
            corners.push(corner)
        }
        const normal: Vector = [0, 0, 0]
        normal[plane.axis] = 1
        const shape: Shape = {
            vertices: new Float32Array(corners.flat()),
            normals: new Float32Array([...normal, ...normal, ...normal, ...normal]),
            triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
            params: undefined,
            tints: undefined
        }
        const solid = { opacity: 0.22, scaled: false, banded: false, levels: [], mesh: undefined, colour: '#8a93a6' }
        this.#plane = this.#surface(solid as unknown as Solid, shape)
        this.#scene.add(this.#plane)
        const places = cut.flatMap(([a, b]) => [...held(this.frame, a), ...held(this.frame, b)])
        put(this.#cut, places)
        this.#cut.renderOrder = 3
    }
}

/** Lines as wide in points as they are in print; the card's own are one pixel wide. */
function strokes(width: number, look: LineMaterialParameters): LineSegments2 {
    const lines = new LineSegments2(new LineSegmentsGeometry(), new LineMaterial(look))
    lines.userData.width = width * PT
    lines.frustumCulled = false
    return lines
}

/** Other pieces for the same lines: two ends each, with a colour for each end. */
function put(lines: LineSegments2, places: number[], colours?: number[]): void {
    lines.geometry.dispose()
    lines.geometry = new LineSegmentsGeometry()
    lines.visible = places.length > 0
    if (!lines.visible) return
    lines.geometry.setPositions(places)
    if (colours) lines.geometry.setColors(colours)
}

function bytes(code: string): [number, number, number] {
    const value = parseInt(code.slice(1), 16)
    return [(value >> 16) & 255, (value >> 8) & 255, value & 255]
}
