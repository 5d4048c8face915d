<script lang="ts">
	import { page } from '$app/state';
	import { api, catalogueOnce, request } from '$lib/api/client';
	import BenchScreen from '$lib/bench/BenchScreen.svelte';
	import { Preview } from '$lib/bench/preview.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import TopBar from '$lib/ui/TopBar.svelte';
	import Unreadable from '$lib/ui/Unreadable.svelte';

	let cutId = $derived(page.params.cut ?? '');
	// The preview connects while the cut is loading, so that its first frame comes sooner.
	let opened = $derived({
		preview: new Preview(cutId),
		loading: Promise.all([
			request(api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: cutId } } })),
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
	<p class="p-6 text-quiet">Loading cut…</p>
{:then [cut, catalogue]}
	{#if cut.problem}
		<TopBar />
		<div class="m-auto flex max-w-lg flex-col items-center gap-3 p-10 text-center">
			<p class="text-[15px]">{cut.edit_name}, cut {cut.number}</p>
			<Unreadable
				problem={cut.problem}
				href="/api/cuts/{cut.id}/document"
				name="{cut.edit_name}, cut {cut.number}"
			/>
			<p class="text-quiet">
				To replace this transition, select the cut in the edit and apply a recipe.
			</p>
			<a class="plain-button" href="/edits/{cut.edit_id}">Open edit</a>
		</div>
	{:else}{#key cut.id}
			<BenchScreen {cut} {catalogue} preview={opened.preview} />
		{/key}{/if}
{:catch error}
	<TopBar />
	<Failure {error} />
{/await}
