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
    LineBasicMaterial,
    LineSegments,
    Mesh,
    OrthographicCamera,
    Points,
    Scene,
    ShaderMaterial,
    Vector3,
    WebGLRenderer
} from 'three'
import { axesOf, boxOf, edgesOf, held, type Axes, type Frame, type Vector } from './camera'
import { cutsOf, type PlaneAt } from './cut'
import type { Seen } from './pick'
import { tintShare, type Shape, type Solid, type SpaceWindow } from './scene'

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

const FRAGMENT = `
in vec3 vNormal; in float vShare; in float vRaw; in vec2 vParams;
out vec4 colour;
uniform vec3 ink; uniform float opacity; uniform bool scaled; uniform bool banded; uniform sampler2D map;
uniform float levels[${MOST_LINES}]; uniform float shares[${MOST_LINES}]; uniform int levelCount;
uniform float us[${MOST_LINES}]; uniform int uCount; uniform float vs[${MOST_LINES}]; uniform int vCount;
uniform float point;
float line(float away, float width) { return clamp(width / 2.0 + 0.5 - away, 0.0, 1.0); }
void main() {
    vec3 n = normalize(vNormal);
    bool back = n.z < 0.0;
    if (back) n = -n;
    float light = 0.64 + 0.30 * max(dot(n, normalize(vec3(-0.44, 0.62, 0.65))), 0.0) + 0.07 * n.z;
    if (back && opacity >= 1.0) light *= 0.93;
    float share = clamp(vShare, 0.0, 1.0);
    if (banded) {
        float low = 0.0; float high = 1.0;
        for (int k = 0; k < ${MOST_LINES}; k++) {
            if (k >= levelCount) break;
            if (shares[k] <= share) low = max(low, shares[k]); else high = min(high, shares[k]);
        }
        share = (low + high) / 2.0;
    }
    vec3 body = (scaled ? texture(map, vec2(share * ${(63 / 64).toFixed(6)} + ${(0.5 / 64).toFixed(6)}, 0.5)).rgb : ink) * light;
    float drawn = 0.0;
    float rise = max(fwidth(vRaw), 1e-12);
    for (int k = 0; k < ${MOST_LINES}; k++) {
        if (k >= levelCount) break;
        drawn = max(drawn, 0.9 * line(abs(vRaw - levels[k]) / rise, 0.5 * point));
    }
    vec2 along = max(fwidth(vParams), vec2(1e-12));
    for (int k = 0; k < ${MOST_LINES}; k++) {
        if (k < uCount) drawn = max(drawn, 0.55 * line(abs(vParams.x - us[k]) / along.x, 0.35 * point));
        if (k < vCount) drawn = max(drawn, 0.55 * line(abs(vParams.y - vs[k]) / along.y, 0.35 * point));
    }
    drawn *= min(1.0, n.z * 6.0);
    colour = vec4(mix(min(body, 1.0), vec3(0.09, 0.10, 0.13), drawn), max(opacity, drawn));
}`

const SPOT = `
out vec4 colour; uniform vec3 ink; uniform float opacity;
void main() {
    float away = length(gl_PointCoord - 0.5) * 2.0;
    if (away > 1.0) discard;
    colour = vec4(ink, opacity);
}`

export function webglThere(): boolean {
    try {
        return document.createElement('canvas').getContext('webgl2') !== null
    } catch {
        return false
    }
}

export class Painter {
    readonly window: SpaceWindow
    readonly frame: Frame
    #size: [number, number]
    #renderer: WebGLRenderer
    #scene = new Scene()
    #camera = new OrthographicCamera(-1, 1, 1, -1, 0, 20)
    #coarse: Mesh[] = []
    #fine: Mesh[] | undefined
    #box = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ vertexColors: true, depthWrite: false }))
    #plane: Mesh | undefined
    #cut = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: INK }))
    #map: DataTexture

    /** size: of the window in px of the sheet; dots: of the canvas for one of these. */
    constructor(canvas: HTMLCanvasElement, window: SpaceWindow, frame: Frame, size: [number, number], dots: number) {
        this.window = window
        this.frame = frame
        this.#size = size
        this.#renderer = new WebGLRenderer({ canvas, antialias: true, alpha: false, preserveDrawingBuffer: true })
        this.#renderer.outputColorSpace = LinearSRGBColorSpace
        this.#renderer.setPixelRatio(dots)
        this.#renderer.setSize(size[0], size[1], false)
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
            else if (solid.kind === 'path') this.#scene.add(...this.#path(solid))
            else this.#scene.add(...this.#spots(solid))
        }
        this.#scene.add(...this.#coarse)
    }

    draw(seen: Seen): Axes {
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
        this.#slide(seen.plane)
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
        geometry.setIndex(new BufferAttribute(shape.triangles, 1))
        const filled = (values: number[]) =>
            [...values.slice(0, MOST_LINES), ...Array(MOST_LINES).fill(0)].slice(0, MOST_LINES)
        const levels = solid.levels
        const material = new ShaderMaterial({
            glslVersion: GLSL3,
            vertexShader: VERTEX,
            fragmentShader: FRAGMENT,
            side: DoubleSide,
            // A little back, so that lines that lie on it are not lost in it.
            polygonOffset: true,
            polygonOffsetFactor: 1,
            polygonOffsetUnits: 2,
            transparent: solid.opacity < 1,
            depthWrite: solid.opacity >= 1,
            uniforms: {
                ink: { value: new Vector3(...bytes(solid.colour).map((v) => v / 255)) },
                opacity: { value: solid.opacity },
                scaled: { value: solid.scaled && colours !== null },
                banded: { value: solid.banded },
                map: { value: this.#map },
                levels: { value: filled(levels) },
                shares: { value: filled(colours ? levels.map((v) => tintShare(colours, v)) : []) },
                levelCount: { value: Math.min(levels.length, MOST_LINES) },
                us: { value: filled(solid.mesh?.[0] ?? []) },
                uCount: { value: Math.min(solid.mesh?.[0].length ?? 0, MOST_LINES) },
                vs: { value: filled(solid.mesh?.[1] ?? []) },
                vCount: { value: Math.min(solid.mesh?.[1].length ?? 0, MOST_LINES) },
                point: { value: PT * this.#renderer.getPixelRatio() }
            }
        })
        const mesh = new Mesh(geometry, material)
        mesh.renderOrder = solid.opacity < 1 ? 2 : 0
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
    #path(solid: Solid): LineSegments[] {
        const places = this.#places(solid.shape.vertices)
        const pieces: number[] = []
        for (let k = 0; k + 5 < places.length; k += 3) {
            const piece = places.subarray(k, k + 6)
            if (piece.every(Number.isFinite)) pieces.push(...piece)
        }
        const geometry = new BufferGeometry()
        geometry.setAttribute('position', new BufferAttribute(new Float32Array(pieces), 3))
        const colour = solid.colour
        const seen = new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthFunc: LessEqualDepth }))
        const behind = new LineSegments(
            geometry,
            new LineBasicMaterial({
                color: colour,
                depthFunc: GreaterDepth,
                depthWrite: false,
                transparent: true,
                opacity: 0.28
            })
        )
        const found = solid.what === 'floor' ? [seen] : [seen, behind]
        for (const line of found) line.frustumCulled = false
        return found
    }

    #spots(solid: Solid): Points[] {
        const geometry = new BufferGeometry()
        geometry.setAttribute('position', new BufferAttribute(this.#places(solid.shape.vertices), 3))
        const size = (solid.kind === 'points' ? solid.size : 4) * PT * this.#renderer.getPixelRatio()
        return [1, 0.28].map((opacity) => {
            const spots = new Points(
                geometry,
                new ShaderMaterial({
                    glslVersion: GLSL3,
                    vertexShader: `void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); gl_PointSize = ${size.toFixed(2)}; }`,
                    fragmentShader: SPOT,
                    depthFunc: opacity < 1 ? GreaterDepth : LessEqualDepth,
                    depthWrite: opacity === 1,
                    transparent: opacity < 1,
                    uniforms: {
                        ink: { value: new Vector3(...bytes(solid.colour).map((v) => v / 255)) },
                        opacity: { value: opacity }
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
        this.#box.geometry.setAttribute('position', new BufferAttribute(new Float32Array(places), 3))
        this.#box.geometry.setAttribute('color', new BufferAttribute(new Float32Array(colours), 3))
        this.#box.frustumCulled = false
    }

    /** The plane that the hand slides, and its line on the surfaces. */
    #slide(plane: PlaneAt | undefined): void {
        if (this.#plane) this.#scene.remove(this.#plane)
        this.#plane = undefined
        this.#cut.visible = plane !== undefined
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
        // A hair towards the viewer, so that the line is not lost in the surface that it lies on.
        const places = cutsOf(this.window, plane).flatMap(([a, b]) => [...held(this.frame, a), ...held(this.frame, b)])
        this.#cut.geometry.setAttribute('position', new BufferAttribute(new Float32Array(places), 3))
        this.#cut.renderOrder = 3
        ;(this.#cut.material as LineBasicMaterial).depthTest = false
        this.#cut.frustumCulled = false
    }
}

function bytes(code: string): [number, number, number] {
    const value = parseInt(code.slice(1), 16)
    return [(value >> 16) & 255, (value >> 8) & 255, value & 255]
}
