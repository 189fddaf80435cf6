<script lang="ts">
    import { api, type ProofChecked } from '../api/client'
    import { saveAs } from '../lib/addresses'
    import { wordsOf } from '../lib/faults'
    import type { Finding } from '../lib/record'

    let { finding }: { finding: Finding } = $props()

    let checked = $state<ProofChecked>()
    let trouble = $state('')

    // Checked anew each time the evidence is opened: what is shown is what the verifier says now.
    $effect(() => {
        const asked = finding
        checked = undefined
        trouble = ''
        api.proof(asked).then(
            (answer) => {
                if (asked === finding) checked = answer
            },
            (reason: unknown) => {
                if (asked === finding) trouble = wordsOf(reason)
            }
        )
    })

    const time = (ms: number): string => (ms < 1 ? 'less than 1 ms' : `${Math.round(ms)} ms`)

    function save() {
        const text = JSON.stringify({ schema: 1, findings: [finding] }, null, 1)
        saveAs(`proof-of-finding-${finding.number}.json`, text, 'application/json')
    }
</script>

<p class="mt-1" data-testid="proof">
    {#if checked?.fault}
        The verifier does not confirm this: {checked.fault}.
    {:else if checked?.certified}
        Proof checked: {checked.boxes} {checked.boxes === 1 ? 'box' : 'boxes'}, {time(checked.duration_ms)}.
    {:else if trouble}
        <span class="text-ink-soft">{trouble}</span>
    {:else if !checked}
        <span class="text-ink-soft">Checking the proof …</span>
    {/if}
    <button class="quiet" onclick={save} title="A file that open-lemma verify checks without running the script"
        >Save the proof</button
    >
</p>
