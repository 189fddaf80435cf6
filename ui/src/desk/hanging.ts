import { RangeSetBuilder } from '@codemirror/state'
import { Decoration, ViewPlugin, type DecorationSet, type EditorView, type ViewUpdate } from '@codemirror/view'

/** Classes and not styles: the content policy allows no inline ones. */
const byIndent = [0, 4, 8, 12].map((n) => Decoration.line({ class: `cm-hang${n}` }))

function hang(view: EditorView): DecorationSet {
    const builder = new RangeSetBuilder<Decoration>()
    for (const { from, to } of view.visibleRanges) {
        for (let place = from; place <= to;) {
            const line = view.state.doc.lineAt(place)
            const depth = Math.floor((/^ */.exec(line.text)?.[0].length ?? 0) / 4)
            const decoration = byIndent[Math.min(depth, byIndent.length - 1)]
            if (decoration && line.length > 30) builder.add(line.from, line.from, decoration)
            place = line.to + 1
        }
    }
    return builder.finish()
}

/** Wrapped lines hang four places further in than their first. */
export const hangingIndent = ViewPlugin.fromClass(
    class {
        decorations: DecorationSet

        constructor(view: EditorView) {
            this.decorations = hang(view)
        }

        update(update: ViewUpdate): void {
            if (update.docChanged || update.viewportChanged) this.decorations = hang(update.view)
        }
    },
    { decorations: (plugin) => plugin.decorations }
)
