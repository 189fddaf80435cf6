<script lang="ts">
    import { closeBrackets, closeBracketsKeymap } from '@codemirror/autocomplete'
    import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands'
    import { bracketMatching, indentUnit } from '@codemirror/language'
    import { highlightSelectionMatches, searchKeymap } from '@codemirror/search'
    import { EditorState, Prec } from '@codemirror/state'
    import { EditorView, drawSelection, highlightActiveLine, keymap, lineNumbers, placeholder } from '@codemirror/view'
    import { untrack } from 'svelte'
    import type { Words } from '../api/client'
    import { hangingIndent } from './hanging'
    import { scriptLanguage } from './language'
    import { findingGutter, lightLine, lit, marks, placeOfFinding, setMarks, type RunMarks } from './marks'
    import { editorTheme } from './theme'

    interface Props {
        script: string
        words: Words
        run: RunMarks | undefined
        chosen: number | undefined
        onchange: (script: string) => void
        onrun: () => void
        onchoose: (number: number) => void
    }
    let { script, words, run, chosen, onchange, onrun, onchoose }: Props = $props()

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
            Prec.highest(keymap.of([{ key: 'Mod-Enter', run: () => (onrun(), true), preventDefault: true }])),
            scriptLanguage(words),
            lineNumbers(),
            marks,
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
            EditorView.contentAttributes.of({ 'aria-label': 'Script', spellcheck: 'false' }),
            placeholder('f(x) = x^3 - 2x + 1'),
            keymap.of([...closeBracketsKeymap, ...defaultKeymap, ...historyKeymap, ...searchKeymap, indentWithTab]),
            EditorView.updateListener.of((update) => {
                if (update.docChanged) onchange(update.state.doc.toString())
            }),
            editorTheme
        ]
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

    export function goToLine(line: number): void {
        if (!view) return
        const { from } = view.state.doc.line(Math.min(line, view.state.doc.lines))
        view.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: 'center' }) })
        view.focus()
    }
</script>

<div class="h-full min-h-0" {@attach mount}></div>
