<script lang="ts">
	import { page } from '$app/state';
	import { api, catalogueOnce, need } from '$lib/api/client';
	import BenchScreen from '$lib/bench/BenchScreen.svelte';
	import { Preview } from '$lib/bench/preview.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import TopBar from '$lib/ui/TopBar.svelte';

	let cutId = $derived(page.params.cut ?? '');
	// The preview connects while the cut is being read, so that its first frame is not kept waiting.
	let opened = $derived({
		preview: new Preview(cutId),
		loading: Promise.all([
			need(api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: cutId } } })),
			catalogueOnce()
		])
	});

	$effect(() => {
		const { preview } = opened;
		return () => preview.close();
	});
</script>

{#await opened.loading}
	<TopBar />
	<p class="p-6 text-quiet">Opening the cut…</p>
{:then [cut, catalogue]}
	{#key cut.id}
		<BenchScreen {cut} {catalogue} preview={opened.preview} />
	{/key}
{:catch error}
	<TopBar />
	<Failure {error} />
{/await}
