import { EditorState, Text } from '@codemirror/state'
import { describe, expect, it } from 'vitest'
import { marks, setMarks, unfinished } from './marks'

const doc = Text.of(['plot x^2', 'curv'])
const message = (line: number, column: number, end_column: number) => ({
    severity: 'error' as const,
    code: 'meant',
    line,
    column,
    end_column,
    text: 'not yet'
})

describe('what is still being typed', () => {
    it('is not found fault with while its line is typed', () => {
        expect(unfinished(doc, doc.length, 9, 13, 'line')).toBe(true)
        expect(unfinished(doc, doc.length, 0, 8, 'line')).toBe(false)
    })
    it('is left alone at rest where the cursor stands at the end of that word', () => {
        expect(unfinished(doc, doc.length, 9, 13, 'word')).toBe(true)
        expect(unfinished(doc, 8, 0, 8, 'word')).toBe(false)
    })
    it('is told of when the cursor is elsewhere', () => {
        expect(unfinished(doc, 11, 9, 13, 'line')).toBe(false)
        expect(unfinished(doc, doc.length, 9, 13, 'none')).toBe(false)
    })
    it('is underlined once the cursor has left it', () => {
        let state = EditorState.create({ doc: 'cur', selection: { anchor: 3 }, extensions: [marks] })
        const count = () => state.field(marks).drawn.size
        state = state.update({
            changes: { from: 3, insert: 'v' },
            selection: { anchor: 4 },
            userEvent: 'input.type'
        }).state
        state = state.update({
            effects: setMarks.of({ findings: [], readings: [], messages: [message(1, 1, 5)] })
        }).state
        expect(count()).toBe(0)
        state = state.update({ selection: { anchor: 0 } }).state
        expect(count()).toBe(2)
    })
})
