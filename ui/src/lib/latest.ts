/** Questions that are asked again and again: an answer counts unless that of a later question has come before it. */
export class Latest {
    #asked = 0
    #answered = 0

    /** A new question. What it gives back is called with its answer, and says whether that still counts. */
    ask(): () => boolean {
        const mine = ++this.#asked
        return () => {
            if (mine <= this.#answered) return false
            this.#answered = mine
            return true
        }
    }

    /** Answers to what was asked so far count no more. */
    drop(): void {
        this.#answered = this.#asked
    }

    /** Whether an answer is still to come that would count. */
    get waiting(): boolean {
        return this.#asked > this.#answered
    }
}
