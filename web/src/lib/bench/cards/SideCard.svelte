<script lang="ts">
	// One of the two clips, and its side of the window.
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import { spareAfter, spareBefore } from '$lib/clips/shown';
	import { pictureAddress } from '$lib/clips/frames';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { rateText } from '$lib/ui/numbers';
	import CutFrameField from './CutFrameField.svelte';
	import FramingField from './FramingField.svelte';
	import SpeedField from './SpeedField.svelte';
	import SubjectField from '$lib/bench/subject/SubjectField.svelte';
	import { unitChoice } from './unitChoice.svelte';
	import UnitField from './UnitField.svelte';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	let { transition } = $derived(bench);
	let cut = $derived(transition.cut);
	let outgoing = $derived(side === 'outgoing');
	let placed = $derived(cut[side]);
	let atCut = $derived(outgoing ? placed.end_shown - 1 : placed.first_shown);
	let spare = $derived(outgoing ? spareAfter(placed) : spareBefore(placed));
	let shortage = $derived(bench.preview.shortages.find((each) => each.side === side));
	let frames = $derived(outgoing ? transition.before : transition.after);

	let field = $state<CutFrameField>();

	function onkeydown(event: KeyboardEvent) {
		const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
		if (!by || event.ctrlKey || event.altKey || event.metaKey) return;
		event.preventDefault();
		event.stopPropagation();
		field?.step(event.shiftKey ? 5 * by : by);
	}

	function setFrames(count: number) {
		if (outgoing) transition.setWindow(count, transition.after);
		else transition.setWindow(transition.before, count);
	}
</script>

<section
	class="card"
	class:incoming={!outgoing}
	aria-label="{outgoing ? 'Outgoing' : 'Incoming'} clip"
>
	<h2 class="small">{outgoing ? 'Outgoing' : 'Incoming'}</h2>
	<p class="name">{placed.name}</p>
	<button
		class="picture"
		aria-label="Cut frame of the {side} clip: arrow keys step it, with Shift by five"
		style:aspect-ratio="{cut.width} / {cut.height}"
		{onkeydown}
		onblur={() => field?.leave()}
	>
		<img
			src={pictureAddress(placed.clip, atCut, transition.rate, 256)}
			alt="{placed.name} at the cut"
		/>
	</button>
	<dl>
		<div>
			<dt>
				<UnitField {transition} />
				{outgoing ? 'before the cut' : 'after the cut'}
			</dt>
			<dd>
				<NumberField
					label="{unitChoice.name} {outgoing ? 'before' : 'after'} the cut"
					value={frames}
					scale={unitChoice.perFrame(transition)}
					shownTo={0.01}
					rate={unitChoice.perFrame(transition) === 1 ? transition.rate : undefined}
					low={1}
					step={1}
					onchange={setFrames}
				/>
			</dd>
		</div>
		<div>
			<dt>Spare frames</dt>
			<dd class="figures" class:lacking={shortage}>
				{#if shortage}<span aria-hidden="true">▮</span>{/if}
				{spare ?? 'Unlimited'}{shortage ? `, ${shortage.missing} missing` : ''}
			</dd>
		</div>
		<div>
			<dt>{outgoing ? 'Last frame' : 'First frame'}</dt>
			<dd><CutFrameField bind:this={field} {bench} {side} frame={atCut} /></dd>
		</div>
		<div>
			<dt>Speed</dt>
			<dd><SpeedField {bench} {side} /></dd>
		</div>
		<div>
			<dt>Framing</dt>
			<dd><FramingField {bench} {side} /></dd>
		</div>
		<div>
			<dt>Subject</dt>
			<dd><SubjectField {bench} {side} /></dd>
		</div>
		<div>
			<dt>Size, rate</dt>
			<dd class="figures">
				{placed.clip.width}×{placed.clip.height}, {rateText(placed.clip.rate)}
			</dd>
		</div>
	</dl>
	{#if placed.clip.missing}
		<p class="small clip-note text-failed">
			<span aria-hidden="true">▮</span> The file of this clip is missing. Import it again: New edit, Clips.
		</p>
	{/if}
	{#each placed.clip.notes as note (note)}<p class="small clip-note">{note}</p>{/each}
</section>

<style>
	.card {
		width: 258px;
		display: flex;
		flex-direction: column;
		padding: 10px 16px 4px;
		overflow: hidden auto;
		scrollbar-width: thin;
	}
	.incoming {
		align-items: flex-end;
		text-align: right;
	}
	.card > :not(.picture) {
		flex: none;
		width: 100%;
	}
	@container (max-width: 900px) {
		.card {
			width: 100%;
		}
	}
	h2 {
		color: var(--color-outgoing);
	}
	.incoming h2 {
		color: var(--color-incoming);
	}
	.name {
		overflow: hidden;
		font-size: 15px;
		font-weight: 600;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	img {
		width: 100%;
		height: 100%;
		object-fit: cover;
	}
	.picture {
		/* As high as there is room for. */
		flex: 1 1 0;
		align-self: flex-start;
		min-height: 64px;
		max-height: 128px;
		margin: 4px 0 6px;
		border-right: 2px solid var(--color-seam);
		background: #000;
	}
	.incoming .picture {
		align-self: flex-end;
		border-right: 0;
		border-left: 2px solid var(--color-seam);
	}
	dl > div {
		display: flex;
		align-items: center;
		justify-content: space-between;
		min-height: 28px;
		gap: 8px;
	}
	.incoming dl > div {
		flex-direction: row-reverse;
	}
	dt {
		color: var(--color-quiet);
		white-space: nowrap;
	}
	dd {
		white-space: nowrap;
	}
	.lacking {
		color: var(--color-failed);
	}
	.clip-note {
		margin-top: 4px;
		color: var(--color-warning);
	}
</style>
