<script lang="ts">
    import { api, type HandbookPage } from '../api/client'
    import PageView from './PageView.svelte'

    interface Props {
        pages: HandbookPage[]
        chosen: string
        onopen: (id: string) => void
        ontry?: ((example: string) => void) | undefined
        tryWords?: string
        /** Whether the search has the focus at once. */
        searching?: boolean
    }
    let { pages, chosen, onopen, ontry, tryWords, searching = false }: Props = $props()

    function begin(input: HTMLInputElement) {
        if (searching) input.focus()
    }

    const GROUPS: [string, string][] = [
        ['idea', 'Ideas'],
        ['request', 'Requests'],
        ['drawing', 'Drawn things'],
        ['statement', 'Statements'],
        ['value', 'Values'],
        ['method', 'Methods to walk through'],
        ['function', 'Functions'],
        ['constant', 'Constants'],
        ['option', 'Options']
    ]
    let wanted = $state('')
    let found = $state.raw<HandbookPage[] | undefined>(undefined)
    // What was found best is shown at once, until another page is chosen.
    let ranked = $state(false)
    const page = $derived(
        (ranked && found?.[0]) || (pages.find((p) => p.id === chosen) ?? pages.find((p) => p.id === 'idea-first-steps'))
    )

    $effect(() => {
        const asked = wanted.trim()
        if (!asked) {
            found = undefined
            ranked = false
            return
        }
        const wait = setTimeout(() => {
            void api.handbook(asked).then((answer) => {
                if (wanted.trim() !== asked) return
                found = answer
                ranked = true
            })
        }, 120)
        return () => clearTimeout(wait)
    })
</script>

<div class="flex h-full min-h-0">
    <nav class="border-rule flex w-[250px] shrink-0 flex-col border-r" aria-label="Pages of the handbook">
        <label class="p-3">
            <span class="sr-only">Search the handbook</span>
            <input
                class="border-rule bg-raised w-full rounded-sm border px-2 py-1.5"
                type="search"
                placeholder="make the line thicker"
                bind:value={wanted}
                {@attach begin}
            />
        </label>
        <div class="min-h-0 flex-1 overflow-auto px-3 pb-6 text-[13.5px]">
            {#if found}
                {#each found as p (p.id)}
                    {@render entry(p)}
                {:else}
                    <p class="text-ink-faint px-1">Nothing is found for that. Try a plainer word.</p>
                {/each}
            {:else}
                {#each GROUPS as [kind, title] (kind)}
                    <h3 class="text-ink-faint mt-3 mb-1 px-1 text-[12px]">{title}</h3>
                    {#each pages.filter((p) => p.kind === kind) as p (p.id)}
                        {@render entry(p)}
                    {/each}
                {/each}
            {/if}
        </div>
    </nav>
    <div class="min-w-0 flex-1 overflow-auto px-8 py-6">
        {#if page}<div class="max-w-[68ch]">
                <PageView {page} {pages} {onopen} {ontry} {...tryWords ? { tryWords } : {}} />
            </div>{/if}
    </div>
</div>

{#snippet entry(p: HandbookPage)}
    <button
        class="{p.kind === 'idea'
            ? 'first-letter:uppercase'
            : ''} block w-full truncate rounded-sm px-1 py-[2px] text-left {p === page
            ? 'bg-accent-wash font-semibold'
            : 'hover:bg-table'} {p.available ? '' : 'text-ink-faint'}"
        title={p.help}
        onclick={() => {
            ranked = false
            onopen(p.id)
        }}>{p.name}</button
    >
{/snippet}
