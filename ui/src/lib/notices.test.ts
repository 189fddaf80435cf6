import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Notices, type Notice } from './notices.svelte'

describe('notices', () => {
    let notices: Notices
    const seen = (): string[] => notices.list.map((notice) => notice.text)
    const first = (): Notice => notices.list[0] ?? { id: -1, text: 'none' }

    beforeEach(() => {
        vi.useFakeTimers()
        notices = new Notices()
    })
    afterEach(() => vi.useRealTimers())

    it('go by themselves', () => {
        notices.say('Saved')
        expect(seen()).toEqual(['Saved'])
        vi.advanceTimersByTime(60_000)
        expect(seen()).toEqual([])
    })

    it('wait while somebody is on them', () => {
        notices.say('Saved')
        notices.hold(first())
        vi.advanceTimersByTime(600_000)
        expect(seen()).toEqual(['Saved'])
        notices.release(first())
        vi.advanceTimersByTime(60_000)
        expect(seen()).toEqual([])
    })

    it('stay while they offer something to do, until dismissed', () => {
        notices.say('“Weir” is off the shelf.', { label: 'Undo', run: () => undefined })
        notices.release(first())
        vi.advanceTimersByTime(3_600_000)
        expect(seen()).toEqual(['“Weir” is off the shelf.'])
        notices.drop(first().id)
        expect(seen()).toEqual([])
    })
})
