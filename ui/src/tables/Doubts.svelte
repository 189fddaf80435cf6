<script lang="ts">
    import { openDoubts, type Doubt, type Recipe } from './recipe'

    interface Props {
        recipe: Recipe
        ondecide: (doubt: Doubt, other: boolean) => void
    }
    let { recipe, ondecide }: Props = $props()
    const doubts = $derived(openDoubts(recipe))
</script>

{#if doubts.length}
    <section class="bg-table border-rule max-h-[132px] overflow-auto border-b" aria-label="What may be read otherwise">
        {#each doubts as doubt (doubt.key)}
            <div class="flex items-baseline gap-3 px-4 py-[5px] text-[13px]">
                <span class="min-w-0 flex-1">{doubt.text}.</span>
                {#if doubt.other}
                    <button class="quiet shrink-0" onclick={() => ondecide(doubt, true)}>{doubt.other}</button>
                {/if}
                <button class="quiet shrink-0" onclick={() => ondecide(doubt, false)}
                    >{doubt.other ? 'It is right so' : 'Seen'}</button
                >
            </div>
        {/each}
    </section>
{/if}
