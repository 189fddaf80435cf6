<script lang="ts">
    import type { DrawnLine } from './drawing'
    import type { Box, Movement, Panel } from './geometry'

    interface Props {
        lines: Map<string, DrawnLine>
        series: { id: string; panel: number }[]
        panels: Panel[]
        panel: number
        movement: Movement
        width: number
        height: number
    }
    let { lines, series, panels, panel, movement, width, height }: Props = $props()

    const POINTS = 96 / 72
    const bounds = $derived<Box>(panels[panel]?.bounds_px ?? [0, 0, 0, 0])
    const ids = $derived(new Set(series.filter((s) => s.panel === panel).map((s) => s.id)))
    const shown = $derived([...lines.values()].filter((l) => ids.has(l.id.split('-')[0] ?? '')))
    const place = $derived(`translate(${movement.dx} ${movement.dy}) scale(${movement.sx} ${movement.sy})`)
</script>

<!-- While the hand moves: the lines as they were drawn, moved and stretched; their widths stay. -->
<svg class="pointer-events-none absolute inset-0 h-full w-full" viewBox="0 0 {width} {height}" aria-hidden="true">
    <clipPath id="moving-window"><rect x={bounds[0]} y={bounds[1]} width={bounds[2]} height={bounds[3]} /></clipPath>
    <rect x={bounds[0] - 1} y={bounds[1] - 1} width={bounds[2] + 2} height={bounds[3] + 2} fill="#fff" />
    <g clip-path="url(#moving-window)">
        {#each shown as line (line.id)}
            <g transform="{place} scale({POINTS})">
                {#each line.paths as path, k (k)}
                    <path
                        d={path.d}
                        fill={path.fill}
                        stroke={path.stroke}
                        stroke-width={path.width * POINTS}
                        stroke-dasharray={path.dash}
                        opacity={path.opacity}
                        vector-effect="non-scaling-stroke"
                    />
                {/each}
            </g>
            {#each line.marks as mark, k (k)}
                <circle
                    cx={mark.x * movement.sx + movement.dx}
                    cy={mark.y * movement.sy + movement.dy}
                    r="2.5"
                    fill="#5b606b"
                />
            {/each}
        {/each}
    </g>
</svg>
