import { StringStream } from '@codemirror/language'
import { describe, expect, it } from 'vitest'
import type { Words } from '../api/client'
import { scriptParser } from './language'

const words: Words = {
    reserved: ['of', 'for', 'from', 'to', 'show'],
    nouns: ['curve', 'roots', 'points'],
    statements: ['figure', 'legend', 'size', 'part'],
    options: ['label', 'size', 'width'],
    option_words: ['dashed'],
    functions: ['sin'],
    constants: ['pi'],
    inks: [],
    starts: []
}

/** What stands in a line, with the kind of each part that has one. */
function read(line: string): [string, string][] {
    const parser = scriptParser(words)
    const state = parser.startState?.(4)
    const stream = new StringStream(line, 4, 4)
    const found: [string, string][] = []
    if (!state) return found
    while (!stream.eol()) {
        stream.start = stream.pos
        const kind = parser.token(stream, state)
        if (kind) found.push([stream.current(), kind])
    }
    return found
}

describe('colouring a line', () => {
    it('tells requests, windows and options', () =>
        expect(read('    curve of sin(x) for x from 0 to 2pi, width 1.5, label "a"')).toEqual([
            ['curve', 'keyword'],
            ['of', 'keyword'],
            ['sin', 'standard'],
            ['for', 'keyword'],
            ['from', 'keyword'],
            ['0', 'number'],
            ['to', 'keyword'],
            ['2', 'number'],
            ['pi', 'standard'],
            ['width', 'attributeName'],
            ['1.5', 'number'],
            ['label', 'attributeName'],
            ['"a"', 'string']
        ]))
    it('takes words of the language as names where they are', () => {
        expect(read('size = 3')).toEqual([['3', 'number']])
        expect(read('y = curve + roots')).toEqual([])
        expect(read('legend(x) = x')).toEqual([])
    })
    it('tells statements and axes', () => {
        expect(read('legend top left')[0]).toEqual(['legend', 'keyword'])
        expect(read('    x axis "depth"')).toEqual([
            ['x', 'keyword'],
            ['"depth"', 'string']
        ])
    })
    it('takes # in a text as text, and a comment to the end', () =>
        expect(read('a = "#1" # note "x"')).toEqual([
            ['"#1"', 'string'],
            ['# note "x"', 'comment']
        ]))
    it('never stands still', () => {
        for (const line of ['α²·√(x) ≤ 💧', '"open', "'", '\t;;', 'x′″']) expect(() => read(line)).not.toThrow()
    })
})
