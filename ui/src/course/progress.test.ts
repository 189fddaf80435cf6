import { describe, expect, it } from 'vitest'
import { together } from './progress.svelte'

describe('progress', () => {
    it('keeps what was done once', () => {
        expect(together([true, false], [false, true])).toEqual([true, true])
        expect(together([], [false, true])).toEqual([false, true])
    })
})
