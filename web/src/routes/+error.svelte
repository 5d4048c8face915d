<script lang="ts">
	// What is shown where a page cannot be loaded.
	import { page } from '$app/state';
	import Failure from '$lib/ui/Failure.svelte';
	import TopBar from '$lib/shell/TopBar.svelte';
</script>

<svelte:head><title>Idle Shimmer</title></svelte:head>
<TopBar />
<main class="flex flex-1 overflow-auto"><Failure error={page.error} /></main>
