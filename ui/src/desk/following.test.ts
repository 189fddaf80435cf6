import { EditorState } from '@codemirror/state'
import { describe, expect, it } from 'vitest'
import type { HandbookPage } from '../api/client'
import { callAt, pageAt } from './help'
import { partsOf } from './parts'
import { inked, tunesOf, written } from './tunes'

describe('tuned values', () => {
    it.each([
        ['tune k = 1.2 from 0 to 4', { name: 'k', value: 1.2, low: 0, high: 4, step: 0.01 }],
        ['tune α_1 = -3 from −10 to 10 step 0.5  # slow', { name: 'α_1', value: -3, low: -10, high: 10, step: 0.5 }],
        ['tune g = 9.81 [m/s^2] from 9 to 10', { name: 'g', value: 9.81, low: 9, high: 10, step: 0.001 }]
    ])('%s', (line, expected) => {
        expect(tunesOf(`a = 1\n${line}`)[0]).toMatchObject({ ...expected, line: 2 })
    })

    it.each(['tune k = a from 0 to 4', 'tune k = 1 from 4 to 0', '# tune k = 1 from 0 to 4', 'k = 1'])(
        'no slider for %s',
        (line) => expect(tunesOf(line)).toEqual([])
    )

    it('a new value touches nothing else', () => {
        const script = '# k = 1\ntune k = 1 from 0 to 4  # k\nshow k\n'
        expect(inked(script, 'k', 2.5)).toBe(script.replace('tune k = 1 ', 'tune k = 2.5 '))
        expect(inked(script, 'q', 2.5)).toBe(script)
        expect(tunesOf(inked(script, 'k', 3.1400000001))[0]?.value).toBe(3.14)
    })

    it.each([
        [1.2000000001, 0.01, '1.2'],
        [3, 0.5, '3'],
        [100, 1, '100'],
        [-0.004, 0.001, '-0.004'],
        [0, 0.1, '0']
    ])('%d in steps of %d is written %s', (value, step, text) => expect(written(value, step)).toBe(text))
})

describe('parts', () => {
    it('reach to the next one', () => {
        expect(partsOf('a = 1\npart "One"\nb = 2\n\npart "Two"\nc = 3')).toEqual([
            { title: 'One', line: 2, end: 4 },
            { title: 'Two', line: 5, end: 6 }
        ])
    })
})

describe('the call at the cursor', () => {
    it.each([
        ['show f(2, ', { name: 'f', argument: 1 }],
        ['show f(g(1, 2), [3, 4], ', { name: 'f', argument: 2 }],
        ['show f(g(1, ', { name: 'g', argument: 1 }],
        ['show (1 + ', undefined],
        ['show f(1) + ', undefined]
    ])('%s', (text, expected) => {
        const found = callAt(text, text.length)
        if (expected) expect(found).toMatchObject(expected)
        else expect(found).toBeUndefined()
    })
})

describe('the page of a word', () => {
    const page = (kind: string, name: string) => ({ id: `${kind}-${name}`, kind, name }) as HandbookPage
    const pages = [page('request', 'sum'), page('function', 'sum'), page('option', 'width'), page('statement', 'show')]
    it.each([
        ['sum of k for k from 1 to 3', 1, 'request-sum'],
        ['show sum(xs)', 6, 'function-sum'],
        ['curve of x, width 2', 13, 'option-width'],
        ['width = 2', 1, undefined],
        ['show 1', 2, 'statement-show'],
        ['show "sum(xs)"', 8, undefined],
        ['a = 1 # sum(xs)', 10, undefined]
    ])('%s at %d', (text, at, expected) => {
        expect(pageAt(EditorState.create({ doc: text }), at, pages)?.page.id).toBe(expected)
    })
})
