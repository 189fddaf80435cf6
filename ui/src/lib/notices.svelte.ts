export interface Notice {
    id: number
    text: string
    action?: { label: string; run: () => void }
}

const KEPT_MS = 9000

/**
 * Short news at the foot of the page, each with at most one thing to do about it. News goes by itself; what offers
 * something to do stays until it is done or dismissed, since nobody knows how long a person needs to reach it.
 */
export class Notices {
    list = $state<Notice[]>([])
    #next = 1
    #clocks: Record<number, ReturnType<typeof setTimeout>> = {}

    say(text: string, action?: Notice['action']): void {
        const notice = { id: this.#next++, text, ...(action ? { action } : {}) }
        this.list.push(notice)
        this.release(notice)
    }

    /** The pointer or the focus is on it: it waits. */
    hold(notice: Notice): void {
        clearTimeout(this.#clocks[notice.id])
    }

    /** Nobody is on it any more: news goes in its time. */
    release(notice: Notice): void {
        if (notice.action) return
        this.hold(notice)
        this.#clocks[notice.id] = setTimeout(() => this.drop(notice.id), KEPT_MS)
    }

    drop(id: number): void {
        clearTimeout(this.#clocks[id])
        this.list = this.list.filter((n) => n.id !== id)
    }
}

export const notices = new Notices()
