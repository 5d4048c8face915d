<script lang="ts">
	// The panel of a placed clip: trim, move, split, mute, remove.
	import type { Placed } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { rateNumber, timecode } from '$lib/ui/numbers';
	import type { PlacedChange } from './run.svelte';

	type Props = {
		placed: Placed;
		of: number;
		rate: string;
		onchange: (change: PlacedChange) => void;
		onsplit: (atFrame: number) => void;
		onremove: () => void;
	};
	let { placed, of, rate, onchange, onsplit, onremove }: Props = $props();

	let middle = $derived(Math.round((placed.in_frame + placed.out_frame) / 2));
	let chosen = $state<number | null>(null);
	let at = $derived(
		Math.min(Math.max(chosen ?? middle, placed.in_frame + 1), placed.out_frame - 1)
	);
	let count = $derived(
		placed.spare_after === null ? Infinity : placed.out_frame + placed.spare_after
	);
	let framesPerSecond = $derived(rateNumber(rate));
	let pictureAt = $derived(
		Math.min(
			Math.round((at / framesPerSecond) * rateNumber(placed.clip.rate)),
			placed.clip.frame_count - 1
		)
	);
</script>

<section class="panel" aria-label="Clip {placed.clip.name}">
	<img
		src="/api/clips/{placed.clip.id}/pictures/{pictureAt}.jpg?height=144"
		alt="{placed.clip.name} at frame {at}"
	/>
	<div class="facts">
		<b>{placed.clip.name}</b>
		<span class="figures small quiet"
			>Duration {timecode(placed.out_frame - placed.in_frame, framesPerSecond)}, spare frames: {placed.spare_before ??
				'unlimited'} before, {placed.spare_after ?? 'unlimited'} after</span
		>
		{#each placed.clip.notes as note (note)}<span class="small quiet">{note}</span>{/each}
	</div>
	<label class="small"
		>In <NumberField
			label="In frame"
			value={placed.in_frame}
			low={0}
			high={placed.out_frame - 1}
			onchange={(in_frame) => onchange({ in_frame })}
		/></label
	>
	<label class="small"
		>Out <NumberField
			label="Out frame"
			value={placed.out_frame}
			low={placed.in_frame + 1}
			high={count}
			onchange={(out_frame) => onchange({ out_frame })}
		/></label
	>
	<label class="small"
		>Split at <NumberField
			label="Frame to split at"
			value={at}
			low={placed.in_frame + 1}
			high={placed.out_frame - 1}
			onchange={(frame) => (chosen = frame)}
		/></label
	>
	<button class="plain-button" title="Split the clip: makes a new cut" onclick={() => onsplit(at)}
		>Split</button
	>
	<button
		class="plain-button"
		aria-label="Move {placed.clip.name} earlier"
		disabled={placed.position === 0}
		onclick={() => onchange({ position: placed.position - 1 })}>‹ Move</button
	>
	<button
		class="plain-button"
		aria-label="Move {placed.clip.name} later"
		disabled={placed.position === of - 1}
		onclick={() => onchange({ position: placed.position + 1 })}>Move ›</button
	>
	{#if placed.clip.has_sound}
		<button
			class="plain-button"
			class:pressed={placed.muted}
			aria-pressed={placed.muted}
			onclick={() => onchange({ muted: !placed.muted })}>{placed.muted ? 'Unmute' : 'Mute'}</button
		>
	{/if}
	<button class="plain-button" disabled={of === 1} onclick={onremove}>Remove</button>
</section>

<style>
	.panel {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 8px 12px;
		margin-top: 6px;
		padding: 8px 12px;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-panel);
	}
	img {
		height: 54px;
		background: var(--color-surround);
	}
	.facts {
		display: flex;
		flex: 1;
		flex-direction: column;
		min-width: 180px;
	}
	label {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		color: var(--color-quiet);
	}
	.quiet {
		color: var(--color-quiet);
	}
</style>
