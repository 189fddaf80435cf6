import {
    HighlightStyle,
    StreamLanguage,
    indentService,
    syntaxHighlighting,
    type StreamParser
} from '@codemirror/language'
import { Prec } from '@codemirror/state'
import { tags } from '@lezer/highlight'
import type { Words } from '../api/client'

interface State {
    /** Whether the line so far holds nothing but white space. */
    fresh: boolean
    /** After a comma: the next word may be an option. */
    comma: boolean
}

const NAME = /^[\p{L}∞][\p{L}\p{N}_]*/u

/** Reads a line for colouring only; what a word means is the checker's to say. */
export function scriptParser(words: Words): StreamParser<State> {
    const sets = {
        reserved: new Set(words.reserved),
        nouns: new Set(words.nouns),
        statements: new Set(words.statements),
        options: new Set(words.options),
        functions: new Set(words.functions),
        constants: new Set(words.constants)
    }
    function kindOf(name: string, after: string, state: State): string | null {
        if (sets.nouns.has(name) && /^\s+of\b/.test(after)) return 'keyword'
        if (sets.reserved.has(name)) return 'keyword'
        if (state.fresh && sets.statements.has(name) && !/^\s*(=(?!=)|\()/.test(after)) return 'keyword'
        if (state.fresh && /^[xyz]$|^right$/.test(name) && /^\s+axis\b/.test(after)) return 'keyword'
        if (state.comma && sets.options.has(name) && /^\s+[^\s=]/.test(after)) return 'attributeName'
        if (sets.functions.has(name) && /^\(/.test(after)) return 'standard'
        if (sets.constants.has(name)) return 'standard'
        return null
    }
    return {
        name: 'lemma',
        startState: () => ({ fresh: true, comma: false }),
        copyState: (state) => ({ ...state }),
        token(stream, state) {
            if (stream.sol()) state.fresh = true
            if (stream.eatSpace()) return null
            const found = read(stream.string.slice(stream.pos), state, kindOf)
            stream.pos += found.length
            return found.kind
        },
        languageData: { commentTokens: { line: '#' }, closeBrackets: { brackets: ['(', '[', '"'] } },
        tokenTable: { attributeName: tags.attributeName, standard: tags.standard(tags.name) }
    }
}

type Kind = (name: string, after: string, state: State) => string | null

function read(rest: string, state: State, kindOf: Kind): { length: number; kind: string | null } {
    if (rest.startsWith('#')) return { length: rest.length, kind: 'comment' }
    const text = /^"[^"]*"?/.exec(rest)
    if (text) {
        state.fresh = state.comma = false
        return { length: text[0].length, kind: 'string' }
    }
    const number = /^\d+(\.\d+)?([eE][+-]?\d+)?/.exec(rest)
    if (number) {
        state.fresh = state.comma = false
        return { length: number[0].length, kind: 'number' }
    }
    const name = NAME.exec(rest)
    if (name) {
        const kind = kindOf(name[0], rest.slice(name[0].length), state)
        state.fresh = state.comma = false
        return { length: name[0].length, kind }
    }
    state.comma = rest.startsWith(',')
    state.fresh = false
    return { length: [...rest][0]?.length ?? 1, kind: null }
}

const colours = HighlightStyle.define([
    { tag: tags.comment, color: 'var(--comment)', fontStyle: 'italic' },
    { tag: tags.string, color: 'var(--text-literal)' },
    { tag: tags.number, color: 'var(--accent)' },
    { tag: tags.keyword, color: 'var(--word)' },
    { tag: tags.attributeName, color: 'var(--ink-soft)' },
    { tag: tags.standard(tags.name), color: 'var(--ink)', fontWeight: '600' }
])

/** A line that ends with ':' opens a block. Asked before the language's own service, which knows no indents. */
const blocks = indentService.of((context, position) => {
    const line = context.state.doc.lineAt(position)
    const breaking = context.simulatedBreak === position && position > line.from
    if (!breaking && line.number === 1) return 0
    const above = breaking ? line.text.slice(0, position - line.from) : context.state.doc.line(line.number - 1).text
    const width = /^ */.exec(above)?.[0].length ?? 0
    return /:\s*(#.*)?$/.test(above) ? width + 4 : width
})

export function scriptLanguage(words: Words) {
    return [Prec.high(blocks), StreamLanguage.define(scriptParser(words)), syntaxHighlighting(colours)]
}
