<script lang="ts">
	// Three first steps on an untouched cut, until they are dismissed for good.
	import Button from '$lib/ui/Button.svelte';
	import { Remembered } from '$lib/ui/remembered.svelte';

	let { untouched }: { untouched: boolean } = $props();

	const dismissed = new Remembered<boolean>('idle-shimmer-hints-dismissed', false);
</script>

{#if untouched && !dismissed.value}
	<aside class="hints" aria-label="First steps">
		<ol>
			<li><b>1</b> Pick a recipe from the recipe book</li>
			<li><b>2</b> Drag the peak of a curve</li>
			<li><b>3</b> Read the checks at the bottom</li>
		</ol>
		<Button kind="bare" low onclick={() => (dismissed.value = true)}>Don’t show again</Button>
	</aside>
{/if}

<style>
	.hints {
		display: flex;
		flex: none;
		flex-wrap: wrap;
		align-items: center;
		justify-content: center;
		gap: 4px 16px;
		padding: 4px 16px;
		border-bottom: 1px solid var(--color-line);
		background: var(--color-surround);
	}
	ol {
		display: flex;
		flex-wrap: wrap;
		gap: 4px 20px;
	}
	b {
		display: inline-flex;
		align-items: center;
		justify-content: center;
		width: 18px;
		height: 18px;
		margin-right: 4px;
		border-radius: 50%;
		background: var(--color-seam);
		color: var(--color-page);
		font-size: 11px;
	}
</style>
