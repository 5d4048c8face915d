<script lang="ts">
	// Up to four pinned variants of the transition: compare one beside it, or continue with it.
	import type { Bench } from './bench.svelte';

	let { bench }: { bench: Bench } = $props();

	const MOST = 4;
	let variants = $derived(bench.variants);
	let shown = $derived(variants.beside?.variant);
</script>

<div class="variants" role="group" aria-label="Variants">
	{#if shown}
		<button
			class="plain-button"
			title="Continue with variant {shown.name}"
			onclick={() => shown && variants.take(shown)}>Use {shown.name}</button
		>
		<button
			class="plain-button"
			title="Unpin variant {shown.name}"
			onclick={() => shown && variants.unpin(shown)}>Unpin {shown.name}</button
		>
	{/if}
	{#each variants.pinned as variant (variant.id)}
		<button
			class="plain-button letter"
			class:pressed={variant.id === shown?.id}
			aria-pressed={variant.id === shown?.id}
			disabled={!!variant.problem}
			aria-label="Compare with variant {variant.name}"
			title="“{variant.recipe
				.name}”, {variant.before} | {variant.after}: show it beside the transition"
			onclick={() => variants.show(variant.id === shown?.id ? null : variant)}
			>{variant.name}</button
		>
	{/each}
	<button
		class="plain-button"
		disabled={variants.pinned.length >= MOST}
		title={variants.pinned.length >= MOST
			? 'Four variants are pinned. Unpin one first.'
			: 'Keep the current transition, to compare it later'}
		onclick={() => variants.pin()}>Pin variant</button
	>
</div>

<style>
	.variants {
		display: flex;
		justify-content: flex-end;
		gap: 4px;
	}
	.plain-button {
		height: 22px;
	}
	.letter {
		padding: 0 8px;
		font-weight: 600;
	}
</style>
