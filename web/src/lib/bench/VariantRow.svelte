<script lang="ts">
	// Up to four variants of the transition: pin one, look at it beside, work on with it.
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
			title="Work on with variant {shown.name}"
			onclick={() => shown && variants.take(shown)}>use {shown.name}</button
		>
		<button
			class="plain-button"
			title="Let variant {shown.name} go"
			onclick={() => shown && variants.letGo(shown)}>unpin {shown.name}</button
		>
	{/if}
	{#each variants.pinned as variant (variant.id)}
		<button
			class="plain-button letter"
			class:pressed={variant.id === shown?.id}
			aria-pressed={variant.id === shown?.id}
			aria-label="Variant {variant.name} beside"
			title="“{variant.recipe.name}”, {variant.before} | {variant.after}: show it beside"
			onclick={() => variants.show(variant.id === shown?.id ? null : variant)}
			>{variant.name}</button
		>
	{/each}
	<button
		class="plain-button"
		disabled={variants.pinned.length >= MOST}
		title={variants.pinned.length >= MOST
			? 'Four are pinned: let one go first'
			: 'Pin the transition as it is, to compare it later'}
		onclick={() => variants.pin()}>Pin a variant</button
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
