import { describe, expect, it } from 'vitest'
import { Latest } from './latest'

describe('later answers win', () => {
    it('takes answers in their order, and none that comes after a later one', () => {
        const latest = new Latest()
        const [first, second, third] = [latest.ask(), latest.ask(), latest.ask()]
        expect(first()).toBe(true)
        expect(third()).toBe(true)
        expect(second()).toBe(false)
        expect(latest.waiting).toBe(false)
    })

    it('takes no answer twice, and none to what was dropped', () => {
        const latest = new Latest()
        const first = latest.ask()
        expect(latest.waiting).toBe(true)
        latest.drop()
        expect(first()).toBe(false)
        const second = latest.ask()
        expect(second()).toBe(true)
        expect(second()).toBe(false)
    })
})
