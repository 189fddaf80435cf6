/** Help at the cursor: completion that knows the place, hints for arguments, and a word's page on hover. */

import {
    acceptCompletion,
    autocompletion,
    completionStatus,
    moveCompletionSelection,
    selectedCompletion,
    type Completion,
    type CompletionContext,
    type CompletionResult
} from '@codemirror/autocomplete'
import { Prec, StateField, type EditorState, type Extension } from '@codemirror/state'
import { hoverTooltip, keymap, showTooltip, type EditorView, type Tooltip } from '@codemirror/view'
import type { HandbookPage, Words } from '../api/client'
import type { SeenName } from '../lib/record'

export interface HelpSources {
    words: Words
    pages: HandbookPage[]
    /** Names with their values as of the latest run. */
    names: () => SeenName[]
    tables: () => string[]
}

const WORD = /[\p{L}∞][\p{L}\p{N}_]*$/u

/** Where in its line the cursor is: inside a text or a remark nothing is offered. */
function quiet(before: string): boolean {
    let open = false
    for (const letter of before) {
        if (letter === '"') open = !open
        else if (letter === '#' && !open) return true
    }
    return open
}

/** The noun of the request that the cursor stands in, if a comma has come since. */
function optionsOf(before: string, pages: HandbookPage[]): HandbookPage | undefined {
    const nouns = pages.filter((p) => p.kind === 'request' || p.kind === 'drawing')
    let found: HandbookPage | undefined
    for (const match of before.matchAll(/([\p{L}]+)\s+of\b/gu)) found = nouns.find((p) => p.name === match[1]) ?? found
    return found
}

export function completions(source: HelpSources) {
    const page = (kinds: string[], name: string) => source.pages.find((p) => p.name === name && kinds.includes(p.kind))

    function option(name: string): Completion {
        const about = page(['option'], name)
        return { label: name, type: 'option', detail: about?.usage ?? '', info: about?.help ?? '', apply: `${name} ` }
    }

    return function complete(context: CompletionContext): CompletionResult | null {
        const line = context.state.doc.lineAt(context.pos)
        const before = line.text.slice(0, context.pos - line.from)
        const file = /^table\s+\S+\s+from\s+"([^"]*)$/.exec(before)
        if (file)
            return {
                from: context.pos - (file[1]?.length ?? 0),
                options: source.tables().map((t) => ({ label: t, type: 'file', apply: `${t}"` }))
            }
        if (quiet(before)) return null
        const typed = WORD.exec(before)?.[0] ?? ''
        const from = context.pos - typed.length
        const head = before.slice(0, before.length - typed.length)
        const part = /([\p{L}][\p{L}\p{N}_]*)\.$/u.exec(head)
        if (part?.[1]) return { from, options: partsOf(context.state, part[1], source) }
        if (!typed && !context.explicit) {
            const choices = choicesAfter(head, source)
            return choices.length && / $/.test(head) ? { from, options: choices } : null
        }
        const choices = choicesAfter(head, source)
        if (choices.length) return { from, options: choices }
        const noun = /,\s*$/.test(head) ? optionsOf(head, source.pages) : undefined
        if (noun && !/[([][^)\]]*$/.test(head)) return { from, options: noun.options.map(option), validFor: /^\w*$/ }
        const fresh = /^\s*$/.test(head)
        const options: Completion[] = namesIn(context.state, source)
        for (const p of source.pages) {
            if (!p.available) continue
            if (p.kind === 'function')
                options.push({
                    label: p.name,
                    type: 'function',
                    detail: p.usage.slice(p.name.length),
                    info: p.help,
                    apply: `${p.name}(`
                })
            else if (p.kind === 'constant') options.push({ label: p.name, type: 'constant', info: p.help })
            else if ((p.kind === 'request' && (fresh || /[=(,[]\s*$/.test(head))) || (p.kind === 'drawing' && fresh))
                options.push({
                    label: `${p.name} of`,
                    type: 'request',
                    info: p.help,
                    apply: `${p.name} of `,
                    boost: fresh ? 1 : -1
                })
            else if (
                p.kind === 'statement' &&
                fresh &&
                /^[a-z]+$/.test(p.name) &&
                !['definition', 'when', 'axis', 'size', 'no'].includes(p.name)
            )
                options.push({ label: p.name, type: 'statement', info: p.help, apply: `${p.name} ` })
        }
        if (fresh && line.text.startsWith(' ')) {
            for (const name of ['x axis', 'y axis', 'size', 'no legend', 'no gridlines', 'no frame'])
                options.push({
                    label: name,
                    type: 'statement',
                    info: page(['statement'], name.split(' ').at(-1) ?? '')?.help ?? ''
                })
        }
        if (!fresh)
            for (const word of [
                'for',
                'from',
                'to',
                'in',
                'step',
                'count',
                'when',
                'otherwise',
                'and',
                'or',
                'not',
                'join',
                'if'
            ])
                options.push({ label: word, type: 'word', boost: -2 })
        return options.length ? { from, options, validFor: /^[\p{L}\p{N}_]*$/u } : null
    }
}

/** The words that an option takes, where the cursor stands just behind it. */
function choicesAfter(head: string, source: HelpSources): Completion[] {
    const name = /,\s*([a-z]+)\s+$/.exec(head)?.[1]
    if (name === 'colour' || name === 'color')
        return source.words.inks.map((ink) => ({ label: ink.name ?? '', type: 'ink', detail: ink.code ?? '' }))
    const found = source.pages.find((p) => p.kind === 'option' && p.name === name)
    if (found?.choices.length) return found.choices.map((c) => ({ label: c, type: 'choice' }))
    if (/^\s+legend\s+$/.test(head))
        return ['top', 'bottom', 'left', 'right'].map((label) => ({ label, type: 'choice' }))
    if (/^\s+gridlines\s+$/.test(head)) return ['major', 'minor'].map((label) => ({ label, type: 'choice' }))
    return []
}

/** Columns of a table, coordinates of a point, parts of a finding. */
function partsOf(state: EditorState, name: string, source: HelpSources): Completion[] {
    const seen = source.names().find((n) => n.name === name)
    if (seen?.kind === 'point') return ['x', 'y', 'z'].map((label) => ({ label, type: 'column' }))
    if (seen?.kind === 'finding') return ['x', 'value'].map((label) => ({ label, type: 'column' }))
    const plain = (heads: string[]) =>
        heads
            .map((h) => h.replace(/\s*\[.*\]$/, ''))
            .map((label) => ({
                label: /^[\p{L}][\p{L}\p{N}_]*$/u.test(label) ? label : `"${label}"`,
                type: 'column'
            }))
    const block = new RegExp(String.raw`^table\s+${name}\s*:[^\n]*\n\s+([^\n]*)`, 'mu').exec(state.doc.toString())
    if (block?.[1])
        return plain(
            [...block[1].matchAll(/"([^"]*)"|\[[^\]]*\]|[^\s[\]"]+/g)]
                .map((m) => m[1] ?? m[0])
                .filter((h) => !h.startsWith('['))
        )
    return seen?.kind === 'table' ? plain(seen.head ?? []) : []
}

/** Names that the script gives, with what they are. */
function namesIn(state: EditorState, source: HelpSources): Completion[] {
    const seen = new Map(source.names().map((n) => [n.name, n]))
    const found = new Map<string, Completion>()
    const defines = /^\s*(?:(?:define|table|tune)\s+)?([\p{L}][\p{L}\p{N}_]*)\s*(\([^()\n]*\))?\s*(?:=(?!=)|:|from)/gmu
    for (const match of state.doc.toString().matchAll(defines)) {
        const [, name, variables] = match
        if (!name || source.words.reserved.includes(name) || ['figure', 'note', 'panel', 'else'].includes(name))
            continue
        const value = seen.get(name)
        found.set(name, {
            label: name,
            type: variables ? 'function' : 'name',
            detail: variables ?? value?.text ?? '',
            ...(variables ? { apply: `${name}(` } : {}),
            boost: 2
        })
    }
    return [...found.values()]
}

// ---------------------------------------------------------------- hints for arguments

/** The call that the cursor stands in: its name, where it begins, and which argument it is. */
export function callAt(text: string, position: number): { name: string; from: number; argument: number } | undefined {
    let depth = 0
    let argument = 0
    for (let at = position - 1; at >= 0 && text[at] !== '\n'; at--) {
        const letter = text[at]
        if (letter === ')' || letter === ']') depth++
        else if (letter === '[' && depth > 0) depth--
        else if (letter === ',' && depth === 0) argument++
        else if (letter === '(') {
            if (depth > 0) depth--
            else {
                const name = WORD.exec(text.slice(0, at))?.[0]
                return name ? { name, from: at - name.length, argument } : undefined
            }
        }
    }
    return undefined
}

function hintAt(state: EditorState, source: HelpSources): Tooltip | null {
    const { main } = state.selection
    if (!main.empty) return null
    const line = state.doc.lineAt(main.head)
    const call = callAt(line.text, main.head - line.from)
    if (!call || quiet(line.text.slice(0, main.head - line.from))) return null
    const own = new RegExp(String.raw`^\s*(?:define\s+)?${call.name}\(([^()]*)\)\s*(?:=|:)`, 'mu').exec(
        state.doc.toString()
    )
    const page = source.pages.find((p) => p.name === call.name && p.kind === 'function')
    const parameters = own ? (own[1] ?? '').split(',').map((p) => p.trim()) : page?.parameters
    if (
        !parameters?.length ||
        (own &&
            line.text.trimStart().startsWith(`${call.name}(`) &&
            /\)\s*=/.test(line.text) &&
            main.head - line.from <= line.text.indexOf('='))
    )
        return null
    return {
        pos: line.from + call.from,
        above: true,
        create: () => {
            const dom = document.createElement('div')
            dom.className = 'cm-hint'
            const name = document.createElement('span')
            name.textContent = `${call.name}(`
            dom.append(name)
            parameters.forEach((parameter, i) => {
                const said = document.createElement(i === Math.min(call.argument, parameters.length - 1) ? 'b' : 'span')
                said.textContent = parameter
                dom.append(said, i < parameters.length - 1 ? ', ' : ')')
            })
            if (page && !own) {
                const help = document.createElement('span')
                help.className = 'cm-hint-help'
                help.textContent = page.help
                dom.append(help)
            }
            return { dom }
        }
    }
}

function argumentHints(source: HelpSources): Extension {
    return StateField.define<Tooltip | null>({
        create: (state) => hintAt(state, source),
        update: (value, transaction) =>
            transaction.docChanged || transaction.selection ? hintAt(transaction.state, source) : value,
        provide: (field) => showTooltip.from(field)
    })
}

// ---------------------------------------------------------------- pages

/** The word at a place, and its page in the handbook. */
export function pageAt(
    state: EditorState,
    position: number,
    pages: HandbookPage[]
): { page: HandbookPage; from: number; to: number } | undefined {
    const line = state.doc.lineAt(position)
    const at = position - line.from
    const start = WORD.exec(line.text.slice(0, at))?.[0].length ?? 0
    const end = /^[\p{L}\p{N}_]*/u.exec(line.text.slice(at))?.[0].length ?? 0
    const word = line.text.slice(at - start, at + end)
    if (!word || quiet(line.text.slice(0, at - start))) return undefined
    const after = line.text.slice(at + end)
    const before = line.text.slice(0, at - start)
    const kinds = /^\s+of\b/.test(after)
        ? ['request', 'drawing']
        : /,\s*$/.test(before)
          ? ['option', 'function', 'constant']
          : /^\s*$/.test(before)
            ? ['statement', 'function', 'constant']
            : ['function', 'constant', 'statement', 'value']
    const found = kinds.map((kind) => pages.find((p) => p.kind === kind && p.name === word)).find(Boolean)
    return found && { page: found, from: line.from + at - start, to: line.from + at + end }
}

export function helpAtCursor(source: HelpSources, open: (page: string) => void): Extension {
    return [
        // Enter ends a line, whatever is offered; Tab takes the first of what is offered, or the one that was gone to.
        autocompletion({
            override: [completions(source)],
            icons: false,
            maxRenderedOptions: 60,
            selectOnOpen: false,
            interactionDelay: 0,
            activateOnCompletion: (chosen) => chosen.type === 'option'
        }),
        Prec.highest(keymap.of([{ key: 'Tab', run: takeFirst }])),
        argumentHints(source),
        hoverTooltip((view, position) => {
            const found = pageAt(view.state, position, source.pages)
            if (!found) {
                return null
            }
            return {
                pos: found.from,
                end: found.to,
                above: true,
                create: () => ({ dom: card(found.page, open) })
            }
        })
    ]
}

function takeFirst(view: EditorView): boolean {
    if (completionStatus(view.state) !== 'active') return false
    if (selectedCompletion(view.state) === null) moveCompletionSelection(true)(view)
    return acceptCompletion(view)
}

function card(page: HandbookPage, open: (page: string) => void): HTMLElement {
    const dom = document.createElement('div')
    dom.className = 'cm-card'
    const usage = document.createElement('code')
    usage.textContent = page.usage
    const help = document.createElement('p')
    help.textContent = `${page.help}${page.domain && page.domain !== 'all real numbers' ? `; for ${page.domain}` : ''}.`
    const more = document.createElement('button')
    more.className = 'cm-fix'
    more.textContent = 'Handbook page'
    more.addEventListener('click', () => open(page.id))
    dom.append(usage, help, more)
    return dom
}
