/** Lines and columns of the record count characters from 1; the editor counts UTF-16 units from 0. */

import type { Text } from '@codemirror/state'
import type { Edit, Message } from '../lib/record'

export interface Span {
    from: number
    to: number
}

export interface Change extends Span {
    insert: string
}

/** The offset in the editor of a place in the record; places beyond a line's end are drawn back to it. */
export function offsetOf(doc: Text, line: number, column: number): number {
    const found = doc.line(Math.min(Math.max(line, 1), doc.lines))
    let units = 0
    let characters = 1
    for (const character of found.text) {
        if (characters >= column) break
        units += character.length
        characters += 1
    }
    return found.from + units
}

export function spanOf(doc: Text, message: Pick<Message, 'line' | 'column' | 'end_column'>): Span {
    return { from: offsetOf(doc, message.line, message.column), to: offsetOf(doc, message.line, message.end_column) }
}

export function changeOf(doc: Text, edit: Edit): Change {
    return {
        from: offsetOf(doc, edit.line, edit.column),
        to: offsetOf(doc, edit.end_line ?? edit.line, edit.end_column),
        insert: edit.text
    }
}
