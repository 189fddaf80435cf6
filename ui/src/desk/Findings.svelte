<script lang="ts">
    import EvidenceMark from '../lib/EvidenceMark.svelte'
    import Maths from '../lib/Maths.svelte'
    import type { Finding } from '../lib/record'
    import EvidencePanel from './EvidencePanel.svelte'

    interface Props {
        findings: Finding[]
        chosen: number | undefined
        onchoose: (number: number) => void
    }
    let { findings, chosen, onchoose }: Props = $props()

    let list: HTMLElement | undefined = $state()

    $effect(() => {
        if (chosen !== undefined) list?.querySelector(`[data-row="${chosen}"]`)?.scrollIntoView({ block: 'nearest' })
    })
</script>

<section aria-label="Findings" bind:this={list}>
    {#if !findings.length}
        <p class="text-ink-faint px-4 py-3 font-serif text-[15px] italic">
            No findings yet. A request, or show, gives one.
        </p>
    {/if}
    {#each findings as finding (finding.number)}
        {@const open = chosen === finding.number}
        <div class="border-rule border-b {open ? 'bg-accent-wash' : ''}" data-row={finding.number}>
            <button
                class="row w-full items-baseline px-4 py-[7px] text-left {open ? '' : 'hover:bg-table'}"
                aria-expanded={open}
                onclick={() => onchoose(finding.number)}
            >
                <span class="font-serif text-[15px] font-semibold">{finding.number}</span>
                <span
                    class="text-ink-soft font-mono text-[12.5px] {open ? 'wrap-anywhere' : 'truncate'}"
                    title={finding.statement}>{finding.statement}</span
                >
                <span
                    class="result text-[15px] {open ? 'wrap-anywhere' : 'soft overflow-hidden whitespace-nowrap'}"
                    class:text-mistake={finding.values.some((v) => v.passed === false)}
                    title={open ? undefined : finding.short}><Maths tex={finding.short_latex} /></span
                >
                <span class="text-ink-soft text-[13px]"><EvidenceMark evidence={finding.evidence} /></span>
            </button>
            {#if open}<EvidencePanel {finding} />{/if}
        </div>
    {/each}
</section>

<style>
    .row {
        display: grid;
        grid-template-columns: 26px minmax(90px, 2fr) minmax(120px, 3fr) 82px;
        gap: 10px;
    }
    .result {
        min-width: 0;
        padding-right: 14px;
    }
    /* A long result runs out softly; opened, it is broken and all of it is seen. */
    .soft {
        mask-image: linear-gradient(to right, black calc(100% - 14px), transparent);
    }
</style>
