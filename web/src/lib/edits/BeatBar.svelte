<script lang="ts">
	// The beat grid of the edit: its tempo and first beat, and cuts that snap to it.
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted } from '$lib/ui/numbers';
	import { tapped } from './beats';
	import type { Run } from './run.svelte';

	let { run }: { run: Run } = $props();

	const USUAL = 100;
	const FORGOTTEN_MS = 2500;
	let taps: number[] = [];

	function tap() {
		const now = performance.now();
		if (now - (taps[taps.length - 1] ?? -Infinity) > FORGOTTEN_MS) taps = [];
		taps.push(now);
		const counted = tapped(taps);
		if (counted && taps.length > 3) void run.change({ beats_per_minute: Math.min(400, counted) });
	}
</script>

<div class="beats" role="group" aria-label="Beats">
	{#if run.beats}
		<NumberField
			label="Tempo"
			value={run.beats.perMinute}
			unit="BPM"
			low={20}
			high={400}
			step={0.5}
			onchange={(beats_per_minute) => run.change({ beats_per_minute })}
		/>
		<span class="small quiet">First beat</span>
		<NumberField
			label="First beat"
			value={run.beats.offsetS}
			unit="s"
			low={-60}
			high={60}
			step={0.01}
			rest={0}
			onchange={(beat_offset_s) => run.change({ beat_offset_s })}
		/>
		<button class="plain-button" title="Tap four times or more with the music" onclick={tap}
			>Tap tempo</button
		>
		<button
			class="plain-button"
			disabled={!run.offBeat.length}
			title={run.offBeat.length
				? 'Move each cut to the nearest beat, with a rolling trim'
				: 'All cuts are on the beat'}
			onclick={() => run.snapToBeats()}
			>{run.offBeat.length
				? `Snap ${counted(run.offBeat.length, 'cut')} to beats`
				: 'All cuts are on the beat'}</button
		>
		<button class="bare-button small" onclick={() => run.change({ beats_per_minute: 0 })}
			>Remove beat grid</button
		>
	{:else}
		<button class="plain-button" onclick={() => run.change({ beats_per_minute: USUAL })}
			>Show beat grid</button
		>
	{/if}
</div>

<style>
	.beats {
		display: flex;
		align-items: center;
		gap: 8px;
	}
	.quiet {
		color: var(--color-quiet);
	}
</style>
