<script lang="ts">
    import type { ShownFigure } from './desk.svelte'

    interface Props {
        figures: ShownFigure[]
        figure: ShownFigure | undefined
        walking?: boolean
        empty: boolean
        onchoose: (name: string) => void
        online: (line: number) => void
    }
    let { figures, figure, walking = false, empty, onchoose, online }: Props = $props()

    const PX_PER_MM = 96 / 25.4
    const LARGEST = 2.2 // times the printed size

    let width = $state(0)
    let height = $state(0)
    const number = $derived(figure ? figures.findIndex((f) => f.record.name === figure.record.name) + 1 : 0)
    const scale = $derived.by(() => {
        if (!figure) return 1
        const { width_mm, height_mm } = figure.record.layout
        const room = [(width - 48) / (width_mm * PX_PER_MM), (height - 24) / (height_mm * PX_PER_MM)]
        return Math.max(0.2, Math.min(LARGEST, ...room))
    })

    function title(of: ShownFigure): string {
        return of.record.title || `from line ${of.record.line}`
    }
</script>

<section class="bg-table flex h-full flex-col" aria-label="Stage">
    {#if figure}
        <div class="flex items-baseline gap-3 px-4 pt-2 pb-1">
            <h2 class="shrink-0 font-serif text-[15px] font-semibold">Figure {number}</h2>
            <span class="text-ink-soft min-w-0 truncate" title={title(figure)}>{title(figure)}</span>
            <span class="flex-1"></span>
            {#if walking}<span class="text-ink-soft shrink-0 text-[13px]">as it is built</span>{/if}
            {#if figure.old}<span class="text-mistake shrink-0 text-[13px]"
                    >from before: its drawing has a mistake now</span
                >{/if}
            <span class="text-ink-soft shrink-0 text-[13px]"
                >{figure.record.layout.width_mm} × {figure.record.layout.height_mm} mm</span
            >
        </div>
        <div
            class="grid min-h-0 flex-1 place-items-center overflow-hidden"
            bind:clientWidth={width}
            bind:clientHeight={height}
        >
            <img
                class="bg-white"
                class:opacity-60={figure.old}
                style:box-shadow="var(--shadow)"
                src={figure.address}
                alt={figure.record.description}
                width={figure.record.layout.width_mm * PX_PER_MM * scale}
                height={figure.record.layout.height_mm * PX_PER_MM * scale}
                data-testid="figure"
                data-figure={figure.record.name}
            />
        </div>
        {#if figure.record.notes.length}
            <ul
                class="text-ink-soft max-h-[4.4em] shrink-0 overflow-auto px-4 pt-1 text-[12.5px]"
                aria-label="Notes on the figure"
            >
                {#each figure.record.notes as note, i (i)}
                    <li>
                        <button class="quiet !px-0 !py-0" onclick={() => online(note.line)}>line {note.line}</button>
                        {note.text}
                    </li>
                {/each}
            </ul>
        {/if}
        <div class="flex shrink-0 gap-2 overflow-x-auto px-4 pt-2 pb-2" role="group" aria-label="Figures of this folio">
            {#each figures as other, i (other.record.name)}
                <button
                    class="shrink-0 border bg-white p-[3px] {other.record.name === figure.record.name
                        ? 'border-accent outline-accent outline-1'
                        : 'border-rule hover:border-rule-strong'}"
                    aria-current={other.record.name === figure.record.name}
                    aria-label="Figure {i + 1}: {title(other)}"
                    title="Figure {i + 1}: {title(other)}"
                    onclick={() => onchoose(other.record.name)}
                >
                    <img class="block h-[38px] w-[56px] object-contain" src={other.address} alt="" />
                </button>
            {/each}
        </div>
    {:else}
        <div class="grid flex-1 place-items-center p-8">
            <div class="text-ink-soft max-w-sm font-serif text-[17px]">
                {#if walking}
                    <p>No figure yet at this step.</p>
                {:else if empty}
                    <p>The stage is empty. Three lines to begin with:</p>
                    <pre
                        class="bg-paper border-rule text-ink mt-3 rounded-sm border px-4 py-3 font-mono text-[13px] leading-6">f(x) = x^3 - 2x + 1
curve of f(x) for x from -2 to 2
roots of f(x) for x from -2 to 2</pre>
                {:else}
                    <p>
                        No figure yet. A line such as <code class="font-mono text-[14px]">curve of sin(x)</code> draws one.
                    </p>
                {/if}
            </div>
        </div>
    {/if}
</section>
