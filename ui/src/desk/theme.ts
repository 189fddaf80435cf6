import { EditorView } from '@codemirror/view'

const square = {
    content: '""',
    display: 'inline-block',
    width: '8px',
    height: '8px',
    marginLeft: '4px',
    border: '1.5px solid var(--accent)',
    boxSizing: 'border-box'
}

/** The script's look; colours come from the page's palette, so that light and dark need no second theme. */
export const editorTheme = EditorView.theme({
    '&': { height: '100%', backgroundColor: 'var(--paper)', color: 'var(--ink)', fontSize: '13px' },
    '&.cm-focused': { outline: 'none' },
    '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '1.62', overflow: 'auto' },
    '.cm-content': { padding: '10px 0 40vh', caretColor: 'var(--accent)' },
    '.cm-line': { padding: '0 16px 0 6px' },
    // A line that is too long goes on beneath its own text, not at the edge.
    ...Object.fromEntries(
        [0, 4, 8, 12].map((n) => [
            `.cm-line.cm-hang${n}`,
            { paddingLeft: `calc(6px + ${n + 4}ch)`, textIndent: `-${n + 4}ch` }
        ])
    ),
    '.cm-cursor': { borderLeft: '2px solid var(--accent)' },
    '.cm-activeLine': { backgroundColor: 'transparent' },
    '&.cm-focused .cm-activeLine': { backgroundColor: 'color-mix(in srgb, var(--accent-wash) 38%, transparent)' },
    '.cm-lit, &.cm-focused .cm-lit': { backgroundColor: 'var(--accent-wash)' },
    '&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground': {
        background: 'color-mix(in srgb, var(--accent) 24%, transparent)'
    },
    '.cm-selectionMatch': { backgroundColor: 'color-mix(in srgb, var(--accent) 14%, transparent)' },
    '&.cm-focused .cm-matchingBracket': {
        backgroundColor: 'var(--accent-wash)',
        outline: '1px solid var(--rule-strong)'
    },
    '.cm-gutters': { backgroundColor: 'var(--paper)', border: 'none', color: 'var(--ink-faint)' },
    '.cm-lineNumbers .cm-gutterElement': {
        minWidth: '34px',
        padding: '0 4px 0 8px',
        fontSize: '11px',
        lineHeight: '21px'
    },
    '.cm-findings .cm-gutterElement': { minWidth: '34px', textAlign: 'right', padding: '0 4px 0 0' },
    '.cm-finding': {
        marginLeft: '6px',
        color: 'var(--accent)',
        fontWeight: '600',
        fontSize: '11px',
        whiteSpace: 'nowrap'
    },
    '.cm-finding:hover': { textDecoration: 'underline' },
    '.cm-finding::after': square,
    '.cm-finding.cm-proven::after': { ...square, background: 'var(--accent)' },
    '.cm-finding.cm-checked::after': {
        ...square,
        background: 'linear-gradient(to right, var(--accent) 50%, transparent 50%)'
    },
    // Where the system has the colours, backgrounds go, and with them what tells the grades apart.
    '@media (forced-colors: active)': {
        '.cm-finding.cm-proven::after': { ...square, background: 'CanvasText', forcedColorAdjust: 'none' },
        '.cm-finding.cm-checked::after': {
            ...square,
            background: 'linear-gradient(to right, CanvasText 50%, transparent 50%)',
            forcedColorAdjust: 'none'
        }
    },
    '.cm-formula': {
        position: 'relative',
        padding: '1px 16px 7px 6px',
        color: 'var(--ink-soft)',
        fontSize: '14px',
        overflowX: 'auto',
        overflowY: 'hidden'
    },
    '.cm-copies': {
        position: 'absolute',
        right: '10px',
        top: '4px',
        padding: '0 8px',
        background: 'var(--paper)',
        color: 'var(--ink-faint)',
        fontFamily: 'var(--font-sans)',
        fontSize: '12px',
        opacity: '0',
        transition: 'opacity 0.12s',
        whiteSpace: 'nowrap'
    },
    '.cm-formula:hover .cm-copies, .cm-copies:focus-within': { opacity: '1' },
    '.cm-copies button': { margin: '0 3px', color: 'var(--accent)' },
    '.cm-copies button:hover': { textDecoration: 'underline' },
    '.cm-tune': {
        display: 'flex',
        alignItems: 'center',
        gap: '8px',
        padding: '0 16px 4px 6px',
        color: 'var(--ink-faint)',
        fontSize: '11.5px'
    },
    '.cm-tune input': { width: 'min(300px, 70%)', accentColor: 'var(--accent)' },
    '.cm-stop': { color: 'var(--on-accent) !important', position: 'relative' },
    '.cm-lineNumbers .cm-stop': {
        background: 'radial-gradient(circle at calc(100% - 10px) 50%, var(--mistake) 9px, transparent 9.6px)',
        fontWeight: '600'
    },
    '.cm-lineNumbers .cm-stop-if': {
        color: 'var(--mistake) !important',
        background: 'none',
        textDecoration: 'underline double var(--mistake)',
        textUnderlineOffset: '3px'
    },
    '.cm-lineNumbers .cm-gutterElement:hover': { color: 'var(--mistake)', cursor: 'pointer' },
    '.cm-stop-room': {
        display: 'flex',
        gap: '8px',
        alignItems: 'baseline',
        padding: '3px 16px 4px 6px',
        fontFamily: 'var(--font-sans)',
        fontSize: '13px',
        color: 'var(--ink-soft)'
    },
    '.cm-stop-room input': {
        width: '130px',
        marginLeft: '4px',
        padding: '1px 6px',
        border: '1px solid var(--rule-strong)',
        borderRadius: '3px',
        background: 'var(--raised)',
        color: 'var(--ink)',
        fontFamily: 'var(--font-mono)',
        fontSize: '12px'
    },
    '.cm-walk, &.cm-focused .cm-walk': {
        backgroundColor: 'var(--accent-wash)',
        boxShadow: 'inset 3px 0 0 var(--accent)'
    },
    '.cm-part-run': { marginLeft: '14px', fontFamily: 'var(--font-sans)', fontSize: '12px', opacity: '0.75' },
    '.cm-part-run button': { marginRight: '8px', color: 'var(--accent)' },
    '.cm-part-run button:hover': { textDecoration: 'underline' },
    '.cm-tooltip': {
        border: '1px solid var(--rule)',
        borderRadius: '5px',
        background: 'var(--raised)',
        color: 'var(--ink)',
        boxShadow: 'var(--shadow)'
    },
    '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--font-mono)', maxHeight: '15em', padding: '3px' },
    '.cm-tooltip.cm-tooltip-autocomplete > ul > li': { padding: '2px 8px', borderRadius: '3px' },
    '.cm-tooltip-autocomplete ul li[aria-selected]': { background: 'var(--accent-wash)', color: 'var(--ink)' },
    '.cm-completionMatchedText': { textDecoration: 'none', color: 'var(--accent)', fontWeight: '600' },
    '.cm-completionDetail': { color: 'var(--ink-faint)', fontStyle: 'normal', fontSize: '12px', marginLeft: '10px' },
    '.cm-completionInfo': { maxWidth: '260px', fontFamily: 'var(--font-sans)', fontSize: '13px' },
    '.cm-hint': { padding: '3px 9px', fontFamily: 'var(--font-mono)', fontSize: '12px', color: 'var(--ink-soft)' },
    '.cm-hint b': { color: 'var(--accent)' },
    '.cm-hint-help': { marginLeft: '12px', fontFamily: 'var(--font-sans)', color: 'var(--ink-faint)' },
    '.cm-card': { maxWidth: '420px', padding: '8px 11px', fontFamily: 'var(--font-sans)', fontSize: '13px' },
    '.cm-card code': { fontFamily: 'var(--font-mono)', fontSize: '12px' },
    '.cm-card p': { margin: '4px 0 7px', color: 'var(--ink-soft)' },
    '.cm-panel.cm-search': { padding: '7px 12px', fontSize: '13px' },
    '.cm-panel.cm-search input, .cm-panel.cm-search button': {
        background: 'var(--raised)',
        color: 'var(--ink)',
        border: '1px solid var(--rule)',
        borderRadius: '3px',
        backgroundImage: 'none',
        fontSize: '12.5px'
    },
    '.cm-panel.cm-search label': { fontSize: '12.5px' },
    '.cm-error': {
        textDecoration: 'underline 1.5px var(--mistake)',
        textUnderlineOffset: '4px',
        textDecorationSkipInk: 'none'
    },
    '.cm-warning': {
        textDecoration: 'underline 1.5px var(--caution)',
        textUnderlineOffset: '4px',
        textDecorationSkipInk: 'none'
    },
    '.cm-said-room': { padding: '2px 16px 6px 6px' },
    '.cm-said': {
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'baseline',
        gap: '4px 10px',
        padding: '3px 9px',
        borderLeft: '2.5px solid',
        fontFamily: 'var(--font-sans)',
        fontSize: '13px',
        lineHeight: '1.4',
        whiteSpace: 'normal'
    },
    '.cm-said-error': { borderColor: 'var(--mistake)', background: 'var(--mistake-wash)' },
    '.cm-said-warning': { borderColor: 'var(--caution)', background: 'var(--caution-wash)' },
    '.cm-said-note': { borderColor: 'var(--rule)', color: 'var(--ink-soft)' },
    '.cm-next': {
        display: 'flex',
        flexWrap: 'wrap',
        gap: '6px',
        alignItems: 'baseline',
        padding: '2px 16px 6px 6px',
        color: 'var(--ink-faint)',
        fontFamily: 'var(--font-sans)',
        fontSize: '12.5px'
    },
    '.cm-advice': { color: 'var(--ink-soft)', fontFamily: 'var(--font-mono)', fontSize: '12px' },
    '.cm-fix': {
        padding: '0 7px',
        border: '1px solid var(--rule-strong)',
        borderRadius: '3px',
        background: 'var(--raised)',
        color: 'var(--accent)',
        fontFamily: 'var(--font-mono)',
        fontSize: '12px',
        lineHeight: '20px',
        cursor: 'pointer'
    },
    '.cm-fix:hover': { borderColor: 'var(--accent)' },
    '.cm-placeholder': { color: 'var(--ink-faint)' },
    '.cm-panels': { backgroundColor: 'var(--table)', color: 'var(--ink)', fontFamily: 'var(--font-sans)' }
})
