import { EditorState } from '@codemirror/state'
import { describe, expect, it } from 'vitest'
import { emptyLine } from './next'

const at = (doc: string, anchor: number) => emptyLine(EditorState.create({ doc, selection: { anchor } }))

describe('the line at which something is offered', () => {
    it('is empty and has a script around it', () => {
        expect(at('f(x) = x\n', 9)).toBe(9)
        expect(at('f(x) = x\n\nshow 1', 9)).toBe(9)
    })
    it('is no other line, and none of an empty script', () => {
        expect(at('f(x) = x\n', 3)).toBeUndefined()
        expect(at('', 0)).toBeUndefined()
        expect(at('\n\n', 1)).toBeUndefined()
        expect(at('figure:\n    ', 12)).toBeUndefined()
    })
})
