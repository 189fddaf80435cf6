<script lang="ts">
    import { onDestroy } from 'svelte'
    import { api, type HandbookPage } from '../api/client'
    import { notices } from '../lib/notices.svelte'
    import { wordsOf } from '../lib/faults'
    import type { Edit } from '../lib/record'
    import { follow, router } from '../lib/router.svelte'
    import Mark from '../lib/Mark.svelte'
    import ThemeMenu from '../lib/ThemeMenu.svelte'
    import { Desk } from './desk.svelte'
    import Editor from './Editor.svelte'
    import ExportMenu from './ExportMenu.svelte'
    import HelpSheet from './HelpSheet.svelte'
    import RenameSheet, { type Renamed } from './RenameSheet.svelte'
    import Results from './Results.svelte'
    import ScriptBar from './ScriptBar.svelte'
    import Split from './Split.svelte'
    import type { HandDesk } from './stage/hand.svelte'
    import Stage from './Stage.svelte'
    import StatusLine from './StatusLine.svelte'
    import Title from './Title.svelte'
    import Tunes from './Tunes.svelte'
    import WalkBar from './WalkBar.svelte'

    interface Props {
        folio: number
        /** Beside a lesson there is less room, and the course has a way back of its own. */
        narrow?: boolean
        onrecord?: (record: number) => void
    }
    let { folio, narrow = false, onrecord }: Props = $props()

    // The page makes a new desk for each folio.
    // svelte-ignore state_referenced_locally
    const desk = new Desk(folio)
    let editor: Editor | undefined = $state()
    let results: Results | undefined = $state()
    let help = $state<string | undefined>(undefined)
    let atCursor = $state.raw<HandbookPage | undefined>(undefined)
    let renaming = $state.raw<Renamed | undefined>(undefined)
    const FORMULAS_KEY = 'open-lemma-formulas'
    let formulas = $state(localStorage.getItem(FORMULAS_KEY) !== 'no')
    const walked = $derived(desk.walk?.ready ? desk.walk.figureAt(desk.walk.step) : undefined)

    function setFormulas(shown: boolean): void {
        formulas = shown
        localStorage.setItem(FORMULAS_KEY, shown ? 'yes' : 'no')
    }

    let large = $state(false)
    let looked = $state.raw<(() => void) | undefined>(undefined)
    /** What the hand on the stage may do with the desk. */
    const handDesk: HandDesk = {
        get id() {
            return desk.id
        },
        get script() {
            return desk.script
        },
        recordId: () => desk.record?.id,
        ink: (edits) => editor?.ink(edits, false),
        say: (text) => notices.say(text),
        findings: () => desk.findings,
        available: (noun) => desk.handbook.some((p) => p.kind === 'request' && p.name === noun && p.available)
    }

    void desk.load()
    onDestroy(() => desk.close())

    const savedWords = $derived(
        desk.conflict
            ? 'not saved: changed elsewhere'
            : { saved: 'saved', unsaved: 'not saved yet', saving: 'saving', failed: 'not saved' }[desk.saving]
    )

    async function copy(): Promise<void> {
        const made = await desk.keepAsCopy()
        if (made === undefined) return
        desk.takeTheirs()
        notices.say('Your version is a folio of its own now.', {
            label: 'Open it',
            run: () => router.go(`/folio/${made}`)
        })
    }

    async function markFinding(line: number): Promise<void> {
        const window = desk.figure?.record.line
        if (window === undefined) return
        try {
            const { edits } = await api.ink(desk.script, [{ do: 'mark finding', line, more: { window } }])
            editor?.ink(edits as unknown as Edit[], false)
        } catch (reason) {
            notices.say(wordsOf(reason))
        }
    }

    function leave(event: BeforeUnloadEvent): void {
        if (desk.unsaved) event.preventDefault()
    }

    /** Everywhere but in the script, which hears the keys first. */
    function key(event: KeyboardEvent): void {
        if (event.defaultPrevented || !(event.ctrlKey || event.metaKey)) return
        if (event.key === 'Enter') void desk.run()
        if (event.key.toLowerCase() === 'k' && !event.shiftKey && !event.altKey) {
            event.preventDefault()
            help = ''
        }
        const letter = event.key.toLowerCase()
        if ((letter === 'z' || letter === 'y') && !event.altKey && !ownsText(event.target)) {
            event.preventDefault()
            editor?.takeBack(letter === 'y' || event.shiftKey)
        }
    }

    /** Whether what has the focus is a text with a history of its own. */
    function ownsText(target: EventTarget | null): boolean {
        if (!(target instanceof HTMLElement)) return false
        if (target instanceof HTMLInputElement) return ['text', 'search', 'number', ''].includes(target.type)
        return target instanceof HTMLTextAreaElement || target.isContentEditable
    }

    $effect(() => {
        if (desk.record && !desk.running) onrecord?.(desk.record.id)
    })

    $effect(() => {
        if (narrow) return
        document.title = `${desk.title || 'Folio'} · Open Lemma`
    })
</script>

<svelte:window onbeforeunload={leave} onkeydown={key} />

{#if desk.loading === 'yes'}
    <p class="text-ink-soft p-8">Opening the folio</p>
{:else if desk.loading !== 'no'}
    <main class="mx-auto max-w-lg px-6 py-24">
        <h1 class="font-serif text-2xl">This folio cannot be opened</h1>
        <p class="mt-3" role="alert">{desk.loading}.</p>
        <p class="mt-3"><a class="text-accent underline" href="/" onclick={follow}>To the shelf</a></p>
    </main>
{:else}
    <div class="flex h-full flex-col">
        <header class="border-rule flex items-center gap-3 border-b px-4 py-[6px]">
            <a
                href="/"
                onclick={follow}
                class="text-ink hover:text-accent flex items-center gap-2 rounded-sm p-1"
                title="To the shelf"
            >
                <Mark /><span class="sr-only">Shelf</span>
            </a>
            <Title title={desk.title} onrename={(t) => desk.rename(t)} />
            <span
                class="text-ink-soft shrink-0 text-[13px]"
                class:text-mistake={desk.saving === 'failed' || desk.conflict}
                data-testid="saved">{savedWords}</span
            >
            <span class="flex-1"></span>
            {#if !narrow}<a
                    class="button"
                    href="/folio/{folio}/tables"
                    onclick={follow}
                    title="The tables of this folio: bring in, see, mend, give units">Tables</a
                >{/if}
            <button class="button" onclick={() => (help = '')} title="The language, page by page (F1 at a word)"
                >Handbook</button
            >
            <ThemeMenu />
            <button
                class="button"
                disabled={!desk.script.trim()}
                onclick={() => (desk.walk ? desk.endWalk() : void desk.startWalk(editor?.stops() ?? []))}
                aria-pressed={desk.walk !== undefined}
                title="Go through the run statement by statement">Walk</button
            >
            <ExportMenu figure={desk.figure} record={desk.running ? undefined : desk.record?.id} onkeep={looked} />
            {#if desk.running}
                <button class="button main" onclick={() => desk.stop()}>Stop</button>
            {:else}
                <button class="button main" onclick={() => desk.run()}
                    >Run <kbd class="font-mono text-[11px] font-normal opacity-80">Ctrl ⏎</kbd></button
                >
            {/if}
        </header>
        {#if desk.conflict}
            <div
                class="bg-caution-wash border-caution flex flex-wrap items-center gap-x-4 gap-y-2 border-b px-4 py-2"
                role="alert"
            >
                <span>This folio was changed in another window. Nothing was overwritten; your text is still here.</span>
                <span class="flex-1"></span>
                <button class="button" onclick={() => desk.takeTheirs()}>Take the other version</button>
                <button class="button" onclick={copy}>Keep mine as a new folio</button>
                <button class="button" onclick={() => desk.keepMine()}>Save mine over it</button>
            </div>
        {/if}
        <Split name="script" label="Width of the script" first={0.425} least={0.22} most={0.72} class="min-h-0 flex-1">
            {#snippet start()}
                {#if desk.words}
                    <div class="flex h-full flex-col">
                        <ScriptBar
                            {desk}
                            {formulas}
                            ongo={(line) => editor?.goToLine(line)}
                            onfind={() => editor?.find()}
                            onrename={() => editor?.renameHere()}
                            onformulas={setFormulas}
                            onstart={(script) => editor?.insertLines(script)}
                        />
                        <div class="min-h-0 flex-1">
                            <Editor
                                bind:this={editor}
                                script={desk.script}
                                words={desk.words}
                                pages={desk.handbook}
                                names={desk.names ?? []}
                                tables={desk.tables.map((t) => t.name)}
                                run={desk.marks}
                                chosen={desk.chosenFinding}
                                {formulas}
                                walkAt={desk.walk?.ready ? desk.walk.step?.line : undefined}
                                offering={desk.whatNow}
                                onnext={(script) => api.next(script)}
                                oncursor={(page) => (atCursor = page)}
                                onhelp={(page) => (help = page)}
                                onrename={(line, column, name) => (renaming = { line, column, name })}
                                onpart={(title, onwards) => void desk.run(title, onwards)}
                                ontune={(name, value) => desk.tune(name, value)}
                                onchange={(s) => {
                                    desk.endWalk()
                                    desk.write(s)
                                }}
                                onrun={() => void desk.run()}
                                onchoose={(n) => {
                                    results?.show('findings')
                                    desk.chosenFinding = desk.chosenFinding === n ? undefined : n
                                }}
                            />
                        </div>
                    </div>
                {/if}
            {/snippet}
            {#snippet end()}
                <Split
                    name="stage"
                    label="Height of the stage"
                    upright
                    first={0.62}
                    least={0.15}
                    most={0.88}
                    class="h-full"
                >
                    {#snippet start()}
                        <div class="flex h-full flex-col">
                            {#if desk.walk}<WalkBar walk={desk.walk} onclose={() => desk.endWalk()} />{/if}
                            <div class="min-h-0 flex-1">
                                <Stage
                                    desk={handDesk}
                                    inks={desk.words?.inks ?? []}
                                    {large}
                                    onlarge={(on) => (large = on)}
                                    figures={desk.figures}
                                    figure={desk.walk?.ready ? walked && { ...walked, old: false } : desk.figure}
                                    walking={desk.walk !== undefined}
                                    empty={!desk.script.trim()}
                                    starts={desk.words?.starts ?? []}
                                    onstart={(script) => editor?.insertLines(script)}
                                    onchoose={(name) => (desk.chosenFigure = name)}
                                    online={(line) => editor?.goToLine(line)}
                                    onlook={(keep) => (looked = keep)}
                                />
                            </div>
                            <div class="bg-table">
                                <Tunes
                                    script={desk.script}
                                    onmove={(name, value) => desk.tune(name, value)}
                                    onlet={(name, value) => editor?.writeTune(name, value)}
                                />
                            </div>
                        </div>
                    {/snippet}
                    {#snippet end()}
                        <Results
                            bind:this={results}
                            {desk}
                            ongo={(line) => editor?.goToLine(line)}
                            onfix={(fix) => editor?.ink(fix.edits)}
                            onmark={desk.figure && !desk.walk ? (finding) => void markFinding(finding.line) : undefined}
                        />
                    {/snippet}
                </Split>
            {/snippet}
        </Split>
        <StatusLine
            {desk}
            {atCursor}
            onpage={(page) => (help = page)}
            onmessage={(m) => {
                results?.show('messages')
                editor?.goToLine(m.line)
            }}
        />
    </div>
    <HelpSheet
        pages={desk.handbook}
        page={help}
        onopen={(page) => (help = page)}
        onclose={() => (help = undefined)}
        oninsert={(example) => {
            help = undefined
            editor?.insertLines(example)
        }}
    />
    <RenameSheet
        script={desk.script}
        at={renaming}
        onink={(edits) => editor?.ink(edits)}
        onclose={() => (renaming = undefined)}
    />
{/if}
