<script lang="ts">
    import { tunesOf, written } from './tunes'

    interface Props {
        script: string
        onmove: (name: string, value: number) => void
        onlet: (name: string, value: number) => void
    }
    let { script, onmove, onlet }: Props = $props()

    const tunes = $derived(tunesOf(script))
    // While it moves, the slider says its value; the script has it when it is let go.
    let moving = $state<{ name: string; value: number } | undefined>(undefined)
</script>

{#if tunes.length}
    <div
        class="text-ink-soft flex shrink-0 flex-wrap gap-x-6 px-4 pt-1 text-[12.5px]"
        role="group"
        aria-label="Tuned values"
    >
        {#each tunes as tune (tune.name)}
            {@const value = moving?.name === tune.name ? moving.value : tune.value}
            <label class="flex items-center gap-2">
                <span class="font-mono">{tune.name} = {written(value, tune.step).replace('-', '−')}</span>
                <input
                    class="accent-accent w-44"
                    type="range"
                    min={tune.low}
                    max={tune.high}
                    step={tune.step}
                    {value}
                    oninput={(e) => {
                        moving = { name: tune.name, value: Number(e.currentTarget.value) }
                        onmove(tune.name, moving.value)
                    }}
                    onchange={(e) => {
                        moving = undefined
                        onlet(tune.name, Number(e.currentTarget.value))
                    }}
                />
            </label>
        {/each}
    </div>
{/if}
