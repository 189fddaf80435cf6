/** What was done of the course, kept in this browser: tasks that were done once stay done. */

const KEY = 'open-lemma-course'

interface Kept {
    done: Record<string, boolean[]>
    folios: Record<string, number>
}

function read(): Kept {
    try {
        const kept = JSON.parse(localStorage.getItem(KEY) ?? '') as Partial<Kept>
        return { done: kept.done ?? {}, folios: kept.folios ?? {} }
    } catch {
        return { done: {}, folios: {} }
    }
}

/** Tasks that are done now or were done before. */
export function together(before: boolean[], now: boolean[]): boolean[] {
    return now.map((done, i) => done || (before[i] ?? false))
}

export class Progress {
    #kept = $state<Kept>(read())

    done(lesson: string): boolean[] {
        return this.#kept.done[lesson] ?? []
    }

    folioOf(lesson: string): number | undefined {
        return this.#kept.folios[lesson]
    }

    mark(lesson: string, now: boolean[]): void {
        this.#kept.done[lesson] = together(this.done(lesson), now)
        this.#keep()
    }

    keepFolio(lesson: string, folio: number): void {
        this.#kept.folios[lesson] = folio
        this.#keep()
    }

    #keep(): void {
        localStorage.setItem(KEY, JSON.stringify(this.#kept))
    }
}

export const progress = new Progress()
