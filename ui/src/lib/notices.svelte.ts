export interface Notice {
    id: number
    text: string
    action?: { label: string; run: () => void }
}

const KEPT_MS = 9000

/** Short news at the foot of the page, each with at most one thing to do about it. */
class Notices {
    list = $state<Notice[]>([])
    #next = 1

    say(text: string, action?: Notice['action']): void {
        const id = this.#next++
        this.list.push({ id, text, ...(action ? { action } : {}) })
        setTimeout(() => this.drop(id), KEPT_MS)
    }

    drop(id: number): void {
        this.list = this.list.filter((n) => n.id !== id)
    }
}

export const notices = new Notices()
