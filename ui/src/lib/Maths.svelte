<script lang="ts">
    import { typeset } from './typeset'

    let { tex, display = false }: { tex: string; display?: boolean } = $props()

    function draw(node: HTMLElement) {
        $effect(() => typeset(node, tex, display))
    }
</script>

<span {@attach draw}></span>
