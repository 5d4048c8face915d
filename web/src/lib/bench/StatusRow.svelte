<script lang="ts">
	// What must be known of this transition before it is rendered, and its mend.
	import type { Bench } from './bench.svelte';

	let { bench, onkeys }: { bench: Bench; onkeys: () => void } = $props();

	let shortages = $derived(bench.preview.shortages);
	let fits = $derived(bench.preview.spanThatFits);

	function shorten() {
		if (!fits) return;
		const span = fits;
		bench.change('mix shortened to its spare frames', (recipe) => ({
			...recipe,
			mix: { ...recipe.mix, span }
		}));
	}
</script>

<footer class="status">
	{#if bench.preview.problem}
		<span class="broken"><span aria-hidden="true">▮</span> {bench.preview.problem}</span>
	{:else if shortages.length}
		<span class="broken" role="status">
			<span aria-hidden="true">▮</span> spare frames:
			{shortages.map((each) => `${each.missing} ${each.side} missing`).join(', ')}, the last one is
			held meanwhile
		</span>
		{#if fits}<button class="plain-button" onclick={shorten}>Shorten the mix</button>{/if}
	{:else}
		<span class="quiet"><span aria-hidden="true">✓</span> spare frames suffice</span>
	{/if}
	{#if !bench.preview.connected}
		<span class="broken"
			><span aria-hidden="true">▮</span> no connection to the server, trying again…</span
		>
	{/if}
	<span class="space"></span>
	<button class="bare-button" onclick={onkeys}>keys: ?</button>
</footer>

<style>
	.status {
		display: flex;
		flex: none;
		align-items: center;
		height: 28px;
		gap: 14px;
		padding: 0 16px;
		border-top: 1px solid var(--color-line);
		background: var(--color-panel);
		font-size: 12px;
		white-space: nowrap;
	}
	.status .plain-button {
		height: 20px;
	}
	.broken {
		overflow: hidden;
		color: var(--color-broken);
		text-overflow: ellipsis;
	}
	.quiet {
		color: var(--color-quiet);
	}
	.space {
		flex: 1;
	}
</style>
