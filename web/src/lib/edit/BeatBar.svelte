<script lang="ts">
	// The beat grid of the edit: its tempo and first beat, and cuts that snap to it.
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted, ordinal } from '$lib/ui/numbers';
	import { tapped } from './beats';
	import type { EditDocument } from './editDocument.svelte';
	import { cutEvery, offBeat, snapToBeats } from './editSteps';

	let { editDocument }: { editDocument: EditDocument } = $props();

	let off = $derived(offBeat(editDocument));

	const USUAL_BPM = 100;
	const MOST_BPM = 400;
	const FORGOTTEN_MS = 2500;
	const USUAL_EVERY = 4;
	let every = $state(USUAL_EVERY);
	let taps: number[] = [];

	function tap() {
		const now = performance.now();
		if (now - (taps.at(-1) ?? -Infinity) > FORGOTTEN_MS) taps = [];
		taps.push(now);
		const tempo = tapped(taps);
		if (tempo && taps.length > 3)
			editDocument.change({ beats_per_minute: Math.min(MOST_BPM, tempo) });
	}
</script>

<div class="beats" role="group" aria-label="Beats">
	{#if editDocument.edit.beats_per_minute}
		<NumberField
			label="Tempo"
			live={false}
			value={editDocument.edit.beats_per_minute}
			unit="BPM"
			low={20}
			high={MOST_BPM}
			step={0.5}
			onchange={(beats_per_minute) => editDocument.change({ beats_per_minute })}
		/>
		<span class="small text-quiet">First beat</span>
		<NumberField
			label="First beat"
			live={false}
			value={editDocument.edit.beat_offset_s}
			unit="s"
			low={-60}
			high={60}
			step={0.01}
			rest={0}
			onchange={(beat_offset_s) => editDocument.change({ beat_offset_s })}
		/>
		<Button tip="Tap four times or more with the music" onclick={tap}>Tap tempo</Button>
		<Button
			disabled={!off.length}
			tip={off.length
				? 'Move each cut to the nearest beat, with a rolling trim'
				: 'All cuts are on the beat'}
			onclick={() => snapToBeats(editDocument)}
			>{off.length
				? `Snap ${counted(off.length, 'cut')} to beats`
				: 'All cuts are on the beat'}</Button
		>
		<NumberField
			label="Beats from cut to cut"
			value={every}
			unit={every === 1 ? 'beat' : 'beats'}
			low={1}
			high={64}
			whole
			onchange={(next) => (every = next)}
		/>
		<Button
			disabled={!editDocument.edit.cuts.length}
			tip="Trim the end of each clip so that a cut lies on every {every === 1
				? ''
				: `${ordinal(every)} `}beat"
			onclick={() => cutEvery(editDocument, every)}
			>Cut every {every === 1 ? 'beat' : `${every} beats`}</Button
		>
		<Button kind="bare" onclick={() => editDocument.change({ beats_per_minute: 0 })}
			>Remove beat grid</Button
		>
	{:else}
		<Button onclick={() => editDocument.change({ beats_per_minute: USUAL_BPM })}
			>Show beat grid</Button
		>
	{/if}
</div>

<style>
	.beats {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 8px;
	}
	@media (max-width: 1199px) {
		.beats {
			gap: 8px 4px;
		}
	}
</style>
