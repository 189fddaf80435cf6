<script lang="ts">
    import Course from './course/Course.svelte'
    import Desk from './desk/Desk.svelte'
    import Handbook from './handbook/Handbook.svelte'
    import NoticeList from './lib/NoticeList.svelte'
    import { follow, router } from './lib/router.svelte'
    import Shelf from './shelf/Shelf.svelte'
    import Tables from './tables/Tables.svelte'
</script>

{#if router.place.view === 'shelf'}
    <Shelf />
{:else if router.place.view === 'desk'}
    {#key router.place.folio}
        <Desk folio={router.place.folio} />
    {/key}
{:else if router.place.view === 'tables'}
    {#key router.place.folio}
        <Tables folio={router.place.folio} table={router.place.table} />
    {/key}
{:else if router.place.view === 'course'}
    <Course lesson={router.place.lesson} />
{:else if router.place.view === 'handbook'}
    <Handbook page={router.place.page} />
{:else}
    <main class="mx-auto max-w-lg px-6 py-24">
        <h1 class="font-serif text-2xl">There is nothing at {router.place.path}</h1>
        <p class="mt-3"><a class="text-accent underline" href="/" onclick={follow}>To the shelf</a></p>
    </main>
{/if}
<NoticeList />
