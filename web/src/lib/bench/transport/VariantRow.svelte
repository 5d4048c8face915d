<script lang="ts">
	// Up to four pinned variants of the transition: compare one beside it, or continue with it.
	import { MOST_VARIANTS, type Variants } from '$lib/bench/variants.svelte';
	import Button from '$lib/ui/Button.svelte';

	let { variants }: { variants: Variants } = $props();

	let shown = $derived(variants.beside?.variant);
	let full = $derived(variants.pinned.length >= MOST_VARIANTS);
</script>

<div class="variants" role="group" aria-label="Variants">
	{#if shown}
		<Button
			low
			tip="Continue with variant {shown.name}"
			onclick={() => shown && variants.take(shown)}>Use {shown.name}</Button
		>
		<Button low onclick={() => shown && variants.unpin(shown)}>Unpin {shown.name}</Button>
	{/if}
	{#each variants.pinned as variant (variant.id)}
		<Button
			low
			class="font-semibold"
			pressed={variant.id === shown?.id}
			disabled={!!variant.problem}
			aria-label="{variant.name}: compare with this variant"
			tip="“{variant.recipe
				.name}”, {variant.before} | {variant.after}: show it beside the transition"
			onclick={() => variants.show(variant.id === shown?.id ? null : variant)}
			>{variant.name}</Button
		>
	{/each}
	<Button
		low
		disabled={full}
		tip={full
			? 'Four variants are pinned. Unpin one first.'
			: 'Keep the current transition, to compare it later'}
		onclick={() => variants.pin()}>Pin variant</Button
	>
</div>

<style>
	.variants {
		display: flex;
		justify-content: flex-end;
		gap: 4px;
	}
</style>
