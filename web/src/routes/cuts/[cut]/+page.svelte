<script lang="ts">
	import { page } from '$app/state';
	import { api, catalogueOnce, need } from '$lib/api/client';
	import BenchScreen from '$lib/bench/BenchScreen.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import TopBar from '$lib/ui/TopBar.svelte';

	let cutId = $derived(page.params.cut ?? '');
	let loading = $derived(
		Promise.all([
			need(api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: cutId } } })),
			catalogueOnce()
		])
	);
</script>

{#await loading}
	<TopBar />
	<p class="p-6 text-quiet">Opening the cut…</p>
{:then [cut, catalogue]}
	{#key cut.id}
		<BenchScreen {cut} {catalogue} />
	{/key}
{:catch error}
	<TopBar />
	<Failure {error} />
{/await}
