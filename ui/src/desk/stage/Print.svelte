<script module lang="ts">
    /** How a drawing is looked at before it is printed. */
    export const LOOKS = [
        { id: '', label: 'in colour' },
        { id: 'grey', label: 'on a grey printer' },
        { id: 'protan', label: 'without red cones' },
        { id: 'deutan', label: 'without green cones' },
        { id: 'tritan', label: 'without blue cones' }
    ]
    // Machado, Oliveira, Fernandes, IEEE Trans. Vis. Comput. Graph. 15 (2009) 1291, table 1, severity 1.0, on linear RGB.
    const SEEN: Record<string, number[]> = {
        protan: [0.152286, 1.052583, -0.204868, 0.114503, 0.786281, 0.099216, -0.003882, -0.048116, 1.051998],
        deutan: [0.367322, 0.860646, -0.227968, 0.280085, 0.672501, 0.047413, -0.01182, 0.04294, 0.968881],
        tritan: [1.255528, -0.076749, -0.178779, -0.078411, 0.930809, 0.147602, 0.004733, 0.691367, 0.3039],
        // Luminance of ITU-R BT.709.
        grey: [0.2126, 0.7152, 0.0722, 0.2126, 0.7152, 0.0722, 0.2126, 0.7152, 0.0722]
    }
    const matrix = (m: number[]) =>
        [0, 1, 2].map((r) => `${m.slice(3 * r, 3 * r + 3).join(' ')} 0 0`).join(' ') + ' 0 0 0 1 0'
    export const CALIBRATION_KEY = 'open-lemma-millimetre'
</script>

<script lang="ts">
    interface Props {
        look: string
        /** Pixels that are one millimetre on this screen. */
        millimetre: number
        onlook: (look: string) => void
        onmillimetre: (px: number) => void
    }
    let { look, millimetre, onlook, onmillimetre }: Props = $props()
</script>

<svg class="absolute h-0 w-0" aria-hidden="true">
    {#each Object.entries(SEEN) as [id, values] (id)}
        <filter id="seen-{id}" color-interpolation-filters="linearRGB"
            ><feColorMatrix type="matrix" values={matrix(values)} /></filter
        >
    {/each}
</svg>

<div class="border-rule flex flex-wrap items-center gap-x-4 gap-y-1 border-b px-4 py-1 text-[13px]" data-testid="print">
    <span class="text-ink-soft">At printed size</span>
    <label class="flex items-center gap-2">
        <span class="text-ink-soft">seen</span>
        <select
            class="border-rule bg-raised h-[26px] rounded-sm border px-1"
            value={look}
            aria-label="Seen"
            onchange={(e) => onlook(e.currentTarget.value)}
        >
            {#each LOOKS as one (one.id)}<option value={one.id}>{one.label}</option>{/each}
        </select>
    </label>
    <label
        class="flex items-center gap-2"
        title="Hold a ruler to the screen: move this until the scale's 50 mm are 50 mm"
    >
        <span class="text-ink-soft">50 mm is</span>
        <input
            type="range"
            min="2.4"
            max="7.6"
            step="0.02"
            value={millimetre}
            aria-label="Length of a millimetre on this screen"
            oninput={(e) => onmillimetre(Number(e.currentTarget.value))}
        />
        <span class="bg-ink inline-block h-[3px]" style:width="{50 * millimetre}px"></span>
    </label>
</div>
