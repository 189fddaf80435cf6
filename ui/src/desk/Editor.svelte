<script lang="ts">
    import { closeBrackets, closeBracketsKeymap, completionKeymap } from '@codemirror/autocomplete'
    import {
        defaultKeymap,
        history,
        historyKeymap,
        indentWithTab,
        isolateHistory,
        redo,
        undo
    } from '@codemirror/commands'
    import { bracketMatching, indentUnit } from '@codemirror/language'
    import { highlightSelectionMatches, openSearchPanel, search, searchKeymap } from '@codemirror/search'
    import { EditorState, Prec } from '@codemirror/state'
    import { EditorView, drawSelection, highlightActiveLine, keymap, placeholder } from '@codemirror/view'
    import { untrack } from 'svelte'
    import type { HandbookPage, Words } from '../api/client'
    import type { Fix, SeenName } from '../lib/record'
    import { hangingIndent } from './hanging'
    import { scriptLanguage } from './language'
    import { findingGutter, lightLine, lit, marks, placeOfFinding, resting, setMarks, type RunMarks } from './marks'
    import { helpAtCursor, pageAt } from './help'
    import { whatNow } from './next'
    import { partButtons } from './parts'
    import { changeOf } from './places'
    import { stopMarks, stopsOf, toggleStop, walkLine, type StopMark } from './stops'
    import { editorTheme } from './theme'
    import { tuneSliders, writeTuned } from './tunes'

    interface Props {
        script: string
        words: Words
        run: RunMarks | undefined
        chosen: number | undefined
        pages: HandbookPage[]
        names: SeenName[]
        tables: string[]
        /** Whether an empty line offers what may come next. */
        offering: boolean
        onnext: (script: string) => Promise<string[]>
        formulas: boolean
        walkAt: number | undefined
        onhelp: (page: string) => void
        /** The page of the word that the cursor stands at. */
        oncursor: (page: HandbookPage | undefined) => void
        onrename: (line: number, column: number, name: string) => void
        onpart: (title: string, onwards: boolean) => void
        ontune: (name: string, value: number) => void
        onchange: (script: string) => void
        onrun: () => void
        onchoose: (number: number) => void
    }
    let {
        script,
        words,
        run,
        chosen,
        pages,
        names,
        tables,
        offering,
        onnext,
        formulas,
        walkAt,
        onhelp,
        oncursor,
        onrename,
        onpart,
        ontune,
        onchange,
        onrun,
        onchoose
    }: Props = $props()

    let view: EditorView | undefined = $state.raw(undefined)
    const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? ''

    function mount(parent: HTMLElement) {
        const made = untrack(
            () => new EditorView({ parent, state: EditorState.create({ doc: script, extensions: extensions() }) })
        )
        view = made
        return () => made.destroy()
    }

    function extensions() {
        return [
            EditorView.cspNonce.of(nonce),
            Prec.highest(
                keymap.of([
                    { key: 'Mod-Enter', run: () => (onrun(), true), preventDefault: true },
                    { key: 'F1', run: help, preventDefault: true },
                    { key: 'F2', run: rename, preventDefault: true },
                    { key: 'F9', run: toggleStop, preventDefault: true }
                ])
            ),
            scriptLanguage(words),
            helpAtCursor({ words, pages, names: () => names, tables: () => tables }, (page) => onhelp(page)),
            stopMarks(),
            marks,
            resting,
            whatNow(onnext, () => offering),
            tuneSliders({ moved: (name, value) => ontune(name, value) }),
            partButtons({ run: (title, onwards) => onpart(title, onwards) }),
            search({ top: true }),
            lit,
            findingGutter({ choose: (number) => onchoose(number) }),
            history(),
            drawSelection(),
            bracketMatching(),
            closeBrackets(),
            highlightActiveLine(),
            highlightSelectionMatches(),
            indentUnit.of('    '),
            EditorView.lineWrapping,
            hangingIndent,
            EditorView.contentAttributes.of({
                'aria-label': 'Script',
                'aria-describedby': 'script-keys',
                spellcheck: 'false'
            }),
            placeholder('f(x) = x^3 - 2x + 1'),
            keymap.of([
                ...closeBracketsKeymap,
                ...completionKeymap,
                ...defaultKeymap,
                ...historyKeymap,
                ...searchKeymap,
                indentWithTab
            ]),
            EditorView.updateListener.of((update) => {
                if (update.docChanged) onchange(update.state.doc.toString())
                if (update.docChanged || update.selectionSet)
                    oncursor(pageAt(update.state, update.state.selection.main.head, pages)?.page)
            }),
            editorTheme
        ]
    }

    function help(from: EditorView): boolean {
        onhelp(pageAt(from.state, from.state.selection.main.head, pages)?.page.id ?? '')
        return true
    }

    function rename(from: EditorView): boolean {
        const { head } = from.state.selection.main
        const line = from.state.doc.lineAt(head)
        const word = from.state.wordAt(head)
        if (!word) return false
        // Places of the language count characters, those of the editor UTF-16 units.
        const column = [...line.text.slice(0, word.from - line.from)].length + 1
        onrename(line.number, column, from.state.sliceDoc(word.from, word.to))
        return true
    }

    // A script that came from elsewhere (another window's version) replaces the text; one's own typing does not come back.
    $effect(() => {
        const wanted = script
        if (!view || view.state.doc.toString() === wanted) return
        view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: wanted } })
    })

    $effect(() => {
        if (view && run) view.dispatch({ effects: setMarks.of(run) })
    })

    $effect(() => {
        if (!view) return
        view.dispatch({ effects: lightLine.of(chosen) })
        const place = chosen === undefined ? undefined : placeOfFinding(view.state, chosen)
        if (place !== undefined)
            view.dispatch({ effects: EditorView.scrollIntoView(place, { y: 'nearest', yMargin: 60 }) })
    })

    $effect(() => {
        if (!view) return
        view.dispatch({ effects: walkLine.of(walkAt) })
        if (walkAt === undefined || walkAt > view.state.doc.lines) return
        const { from } = view.state.doc.line(walkAt)
        view.dispatch({ effects: EditorView.scrollIntoView(from, { y: 'nearest', yMargin: 90 }) })
    })

    export function stops(): StopMark[] {
        return view ? stopsOf(view.state) : []
    }

    export function find(): void {
        if (view) openSearchPanel(view)
    }

    export function renameHere(): void {
        if (view) rename(view)
    }

    /** Write edits of the record into the script, as one step that can be taken back. */
    export function ink(edits: Fix['edits'], focused = true): void {
        if (!view || !edits.length) return
        const { doc } = view.state
        // Each is a step of its own to be taken back, however quickly one follows the other.
        view.dispatch({
            changes: edits.map((e) => changeOf(doc, e)),
            userEvent: 'input.ink',
            annotations: isolateHistory.of('full'),
            effects: edits[0]
                ? EditorView.scrollIntoView(changeOf(doc, edits[0]).from, { y: 'nearest', yMargin: 40 })
                : []
        })
        if (focused) view.focus()
    }

    /** Take the last change back, or make it again, whoever made it and wherever the focus is. */
    export function takeBack(again = false): void {
        if (view) (again ? redo : undo)(view)
    }

    export function writeTune(name: string, value: number): void {
        if (view) writeTuned(view, name, value)
    }

    /** Put lines where the cursor stands, or at the end where its line is not empty. */
    export function insertLines(text: string): void {
        if (!view) return
        const { doc, selection } = view.state
        const here = doc.lineAt(selection.main.head)
        const line = here.text.trim() ? doc.line(doc.lines) : here
        const before = line.text.trim() ? '\n' : ''
        const insert = `${before}${text.replace(/\n+$/, '')}\n`
        const from = line.text.trim() ? line.to : line.from
        view.dispatch({
            changes: { from, to: line.to, insert },
            selection: { anchor: from + insert.length },
            userEvent: 'input.ink',
            scrollIntoView: true
        })
        view.focus()
    }

    export function goToLine(line: number): void {
        if (!view) return
        const { from } = view.state.doc.line(Math.min(line, view.state.doc.lines))
        view.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: 'center' }) })
        view.focus()
    }
</script>

<div class="h-full min-h-0" class:no-formulas={!formulas} {@attach mount}></div>

<style>
    .no-formulas :global(.cm-formula) {
        display: none;
    }
</style>
