<script lang="ts">
	// The panel of a placed clip: trim, move, split, its sound, remove.
	import type { Placed } from '$lib/api/client';
	import { pictureAddress } from '$lib/clips/frames';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { rateNumber, timecode } from '$lib/ui/numbers';
	import type { PlacedChange } from './editChanges';

	type Props = {
		placed: Placed;
		place: number;
		of: number;
		rate: string;
		onchange: (change: PlacedChange) => void;
		onsplit: (atFrame: number) => void;
		/** Nothing where there is no recipe to be looked at yet. */
		onaccent?: (atFrame: number) => void;
		onremove: () => void;
	};
	let { placed, place, of, rate, onchange, onsplit, onaccent, onremove }: Props = $props();

	const MAX_CROSSFADE_FRAMES = 200;
	let middle = $derived(Math.round((placed.in_frame + placed.out_frame) / 2));
	let chosen = $state<number | null>(null);
	let at = $derived(
		Math.min(Math.max(chosen ?? middle, placed.in_frame + 1), placed.out_frame - 1)
	);
	let count = $derived(
		placed.room_after === null ? Infinity : placed.out_frame + placed.room_after
	);
	let framesPerSecond = $derived(rateNumber(rate));
</script>

<section class="panel" aria-label="Clip {placed.name}">
	<img
		src={pictureAddress(placed.clip, at, framesPerSecond, 144)}
		alt="{placed.name} at frame {at}"
	/>
	<div class="facts">
		<b>{placed.name}</b>
		{#if placed.clip.missing}<span class="text-failed"
				><span aria-hidden="true">▮</span> File missing</span
			>{/if}
		<span class="figures small text-quiet"
			>Duration {timecode(placed.edit_frames, framesPerSecond)}, spare frames: {placed.spare_before ??
				'unlimited'} before, {placed.spare_after ?? 'unlimited'} after</span
		>
		{#each placed.clip.notes as note (note)}<span class="small text-quiet">{note}</span>{/each}
	</div>
	<span class="field small"
		>In <NumberField
			label="In frame"
			rate={framesPerSecond}
			live={false}
			value={placed.in_frame}
			low={0}
			high={placed.out_frame - 1}
			onchange={(in_frame) => onchange({ in_frame })}
		/></span
	>
	<span class="field small"
		>Out <NumberField
			label="Out frame"
			rate={framesPerSecond}
			live={false}
			value={placed.out_frame}
			low={placed.in_frame + 1}
			high={count}
			onchange={(out_frame) => onchange({ out_frame })}
		/></span
	>
	<span class="field small"
		>Split at <NumberField
			label="Frame to split at"
			rate={framesPerSecond}
			value={at}
			low={placed.in_frame + 1}
			high={placed.out_frame - 1}
			onchange={(frame) => (chosen = frame)}
		/></span
	>
	<Button tip="Split the clip: makes a new cut" onclick={() => onsplit(at)}>Split</Button>
	{#if onaccent}
		<Button
			tip="Choose a recipe that acts inside this clip, at the frame to split at"
			onclick={() => onaccent?.(at)}>Add accent here…</Button
		>
	{/if}
	<Button
		aria-label="Move {placed.name} earlier"
		disabled={place === 0}
		onclick={() => onchange({ position: place - 1 })}>‹ Move</Button
	>
	<Button
		aria-label="Move {placed.name} later"
		disabled={place === of - 1}
		onclick={() => onchange({ position: place + 1 })}>Move ›</Button
	>
	{#if placed.clip.interlaced}
		<Button
			pressed={placed.deinterlaced}
			tip="Make whole frames of the fields; off shows both fields together"
			onclick={() => onchange({ deinterlaced: !placed.deinterlaced })}>Deinterlace</Button
		>
	{/if}
	{#if placed.clip.has_sound}
		<Button pressed={placed.muted} onclick={() => onchange({ muted: !placed.muted })}
			>{placed.muted ? 'Unmute' : 'Mute'}</Button
		>
		<span class="field small"
			>Level <NumberField
				label="Level of the clip's sound"
				live={false}
				value={placed.gain_db}
				unit="dB"
				low={-60}
				high={12}
				step={0.5}
				rest={0}
				onchange={(gain_db) => onchange({ gain_db })}
			/></span
		>
	{/if}
	{#if place < of - 1}
		<span class="field small"
			>Crossfade to next <NumberField
				label="Crossfade of the sound to the next clip"
				live={false}
				value={placed.crossfade}
				unit="frames"
				low={0}
				high={MAX_CROSSFADE_FRAMES}
				rest={0}
				onchange={(crossfade) => onchange({ crossfade })}
			/></span
		>
	{/if}
	<Button disabled={of === 1} onclick={onremove}>Remove</Button>
</section>

<style>
	.panel {
		display: flex;
		flex: none;
		flex-wrap: wrap;
		align-items: center;
		gap: 8px;
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
		min-width: 140px;
	}
	.field {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		color: var(--color-quiet);
	}
</style>
