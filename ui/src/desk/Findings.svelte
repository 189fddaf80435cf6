<script lang="ts">
    import { ContextMenu } from 'bits-ui'
    import { copied } from '../lib/clipboard'
    import EvidenceMark from '../lib/EvidenceMark.svelte'
    import Maths from '../lib/Maths.svelte'
    import type { Finding } from '../lib/record'
    import EvidencePanel from './EvidencePanel.svelte'

    interface Props {
        findings: Finding[]
        chosen: number | undefined
        onchoose: (number: number) => void
        ongo: (line: number) => void
        /** Mark a finding on the figure that is shown; undefined where there is none. */
        onmark?: ((finding: Finding) => void) | undefined
    }
    let { findings, chosen, onchoose, ongo, onmark }: Props = $props()

    const placed = (finding: Finding) => finding.values.some((row) => typeof row.x === 'number')

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
            <ContextMenu.Root>
                <ContextMenu.Trigger>
                    {#snippet child({ props })}
                        <button
                            {...props}
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
                                class="result text-[15px] {open
                                    ? 'wrap-anywhere'
                                    : 'soft overflow-hidden whitespace-nowrap'}"
                                class:text-mistake={finding.values.some((v) => v.passed === false)}
                                title={open ? undefined : finding.short}><Maths tex={finding.short_latex} /></span
                            >
                            <span class="text-ink-soft text-[13px]"><EvidenceMark evidence={finding.evidence} /></span>
                        </button>
                    {/snippet}
                </ContextMenu.Trigger>
                <ContextMenu.Portal>
                    <ContextMenu.Content class="menu" aria-label="What can be done with finding {finding.number}">
                        <ContextMenu.Item class="menu-item" onSelect={() => void copied(finding.short)}
                            >Copy value</ContextMenu.Item
                        >
                        <ContextMenu.Item class="menu-item" onSelect={() => void copied(finding.short_latex)}
                            >Copy as LaTeX</ContextMenu.Item
                        >
                        {#if onmark && placed(finding)}
                            <ContextMenu.Item class="menu-item" onSelect={() => onmark(finding)}
                                >Mark on the figure</ContextMenu.Item
                            >
                        {/if}
                        <ContextMenu.Item class="menu-item" onSelect={() => ongo(finding.line)}
                            >Go to its line</ContextMenu.Item
                        >
                        <ContextMenu.Item class="menu-item" onSelect={() => onchoose(finding.number)}
                            >{open ? 'Close its evidence' : 'What it rests on'}</ContextMenu.Item
                        >
                    </ContextMenu.Content>
                </ContextMenu.Portal>
            </ContextMenu.Root>
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
