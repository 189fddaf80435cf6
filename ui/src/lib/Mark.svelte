<script lang="ts"></script>

<!-- The mark of the product: an end-of-proof square with one side open. -->
<svg viewBox="0 0 20 20" width="20" height="20" aria-hidden="true" class="shrink-0">
    <path d="M17 9.5V3H3v14h14" fill="none" stroke="currentColor" stroke-width="2.2" />
</svg>
