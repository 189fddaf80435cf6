/* eslint-disable svelte/prefer-svelte-reactivity -- these maps are made anew or hold what nothing on the screen waits for */
import { api } from '../api/client'
import { addressOf, letGo } from '../lib/addresses'
import { wordsOf } from '../lib/faults'
import type { FigureRecord, SeenName, Trace, WalkStep } from '../lib/record'
import { listen } from './events'
import type { StopMark } from './stops'

export interface NameAtStep extends SeenName {
    depth: number
    changed: boolean
}

interface Drawn {
    record: FigureRecord
    svg: string
    /** Addresses of the figure with so many of its things drawn. */
    stages: Map<number, string>
}

/** Going through a run statement by statement. A step shows the script after its statement was carried out. */
export class Walk {
    readonly folio: number
    readonly script: string
    ready = $state(false)
    failure = $state('')
    trace = $state.raw<Trace>({ steps: [], seen: 0, thinned: false })
    at = $state(0)
    #figures = new Map<string, Drawn>()
    #stopListening: (() => void) | undefined
    #run: string | undefined

    step = $derived<WalkStep | undefined>(this.trace.steps[this.at])
    names = $derived(this.#namesAt(this.at))

    constructor(folio: number, script: string) {
        this.folio = folio
        this.script = script
    }

    async begin(stops: StopMark[]): Promise<void> {
        try {
            const begun = await api.walk(
                this.folio,
                this.script,
                stops.map((s) => ({ line: s.line, condition: s.condition || null }))
            )
            this.#run = begun.run_id
            await new Promise<void>((settle) => {
                this.#stopListening = listen(
                    begun.run_id,
                    (event) => {
                        if (event.event === 'figure')
                            this.#figures.set(event.figure.name, {
                                record: event.figure,
                                svg: event.svg,
                                stages: new Map()
                            })
                        else if (event.event === 'done') {
                            if (event.trace) this.trace = event.trace
                            this.ready = true
                            const stop = this.trace.steps.findIndex((s) => s.stop)
                            this.at = Math.max(stop, 0)
                            settle()
                        } else if (event.event === 'failed') {
                            this.failure = event.text
                            settle()
                        }
                    },
                    () => {
                        this.failure = 'the connection to the run was lost'
                        settle()
                    }
                )
            })
        } catch (reason) {
            this.failure = wordsOf(reason)
        }
        if (!this.failure && !this.trace.steps.length)
            this.failure = 'there is nothing to walk through: no statement was carried out'
    }

    go(to: number): void {
        this.at = Math.max(0, Math.min(this.trace.steps.length - 1, to))
    }

    /** To the next stop mark in that direction, or to the end. */
    toStop(direction: 1 | -1): void {
        const { steps } = this.trace
        let to = this.at + direction
        while (to > 0 && to < steps.length - 1 && !steps[to]?.stop) to += direction
        this.go(to)
    }

    get stops(): number {
        return this.trace.steps.filter((s) => s.stop).length
    }

    /** Names of the script and of the calls that are open, as they stand after a step. */
    #namesAt(place: number): NameAtStep[] {
        const frames = new Map<string, NameAtStep>()
        const { steps } = this.trace
        for (let k = 0; k <= place && k < steps.length; k++) {
            const step = steps[k]
            if (!step) break
            for (const value of step.set)
                frames.set(`${value.depth} ${value.name}`, { ...value, depth: value.depth ?? 0, changed: k === place })
            for (const gone of step.gone ?? []) frames.delete(`${gone.depth} ${gone.name}`)
        }
        return [...frames.values()].sort((a, b) => b.depth - a.depth)
    }

    /** The figure as it was built so far: the address of its picture. */
    figureAt(step: WalkStep | undefined): { record: FigureRecord; address: string } | undefined {
        const drawn = step?.figure === undefined ? undefined : this.#figures.get(step.figure)
        if (!drawn) return undefined
        const things = step?.drawn === undefined || step.drawn < 0 ? Infinity : step.drawn
        let address = drawn.stages.get(things)
        if (!address) {
            address = addressOf(upTo(drawn.svg, things), 'image/svg+xml')
            drawn.stages.set(things, address)
        }
        return { record: drawn.record, address }
    }

    close(): void {
        this.#stopListening?.()
        if (this.#run && !this.ready) void api.stop(this.#run).catch(() => undefined)
        for (const { stages } of this.#figures.values()) for (const a of stages.values()) letGo(a)
        this.#figures.clear()
    }
}

/** A drawing with its first things only: those that came later are taken out, the paper stays as it is. */
export function upTo(svg: string, things: number): string {
    if (!Number.isFinite(things)) return svg
    const page = new DOMParser().parseFromString(svg, 'image/svg+xml')
    for (const thing of page.querySelectorAll('[id^="s"]')) {
        const number = /^s(\d+)(?:-|$)/.exec(thing.id)?.[1]
        if (number !== undefined && Number(number) > things) thing.remove()
    }
    return new XMLSerializer().serializeToString(page)
}
