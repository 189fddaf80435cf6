import { describe, expect, it } from 'vitest'
import { ago } from '../shelf/ago'
import { figureAddress } from '../api/client'

describe('how long ago', () => {
    const now = Date.parse('2026-03-10T12:00:00Z')
    it.each([
        ['2026-03-10T11:59:50Z', 'just now'],
        ['2026-03-10T11:58:00Z', '2 minutes ago'],
        ['2026-03-10T11:00:00Z', '1 hour ago'],
        ['2026-03-08T12:00:00Z', '2 days ago'],
        ['2025-12-24T12:00:00Z', '2025-12-24'],
        ['2026-03-10T12:00:30Z', 'just now']
    ])('%s', (moment, expected) => expect(ago(moment, now)).toBe(expected))
})

describe('addresses of figures', () => {
    it('are plain without options', () =>
        expect(figureAddress(3, 'energy', 'svg')).toBe('/api/records/3/figures/energy.svg'))
    it('escape names and carry options', () =>
        expect(figureAddress(3, 'α b', 'png', { dpi: 600, grey: true, download: true })).toBe(
            '/api/records/3/figures/%CE%B1%20b.png?dpi=600&grey=true&download=true'
        ))
})
