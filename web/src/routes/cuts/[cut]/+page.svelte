<script lang="ts">
	import BenchScreen from '$lib/bench/BenchScreen.svelte';
	import Button from '$lib/ui/Button.svelte';
	import TopBar from '$lib/shell/TopBar.svelte';
	import Unreadable from '$lib/ui/Unreadable.svelte';

	let { data } = $props();

	let { cut, catalogue } = $derived(data);

	$effect(() => {
		const { preview } = data;
		return () => preview.close();
	});
</script>

{#if cut.problem}
	<TopBar />
	<main class="m-auto flex max-w-lg flex-col items-center gap-3 p-10 text-center">
		<h1 class="text-[15px]">{cut.edit_name}, cut {cut.number}</h1>
		<Unreadable
			problem={cut.problem}
			href="/api/cuts/{cut.id}/document"
			name="{cut.edit_name}, cut {cut.number}"
		/>
		<p class="text-quiet">
			To replace this transition, select the cut in the edit and apply a recipe.
		</p>
		<Button href="/edits/{cut.edit_id}">Open edit</Button>
	</main>
{:else}{#key data.preview}
		<BenchScreen {cut} {catalogue} preview={data.preview} />
	{/key}{/if}
