<script lang="ts">
	// One of the two clips, and its side of the window.
	import NumberField from '$lib/ui/NumberField.svelte';
	import { rateNumber, rateText, timecode } from '$lib/ui/numbers';
	import type { Bench } from './bench.svelte';
	import FramingField from './FramingField.svelte';
	import SpeedField from './SpeedField.svelte';
	import WindowUnit from './WindowUnit.svelte';
	import { windowUnit } from './windowUnit.svelte';

	let { bench, side }: { bench: Bench; side: 'outgoing' | 'incoming' } = $props();

	let outgoing = $derived(side === 'outgoing');
	let placed = $derived(outgoing ? bench.cut.outgoing : bench.cut.incoming);
	let atCut = $derived(outgoing ? placed.out_frame - 1 : placed.in_frame);
	let picture = $derived(
		Math.min(
			Math.floor(((atCut + 0.5) / bench.rate) * rateNumber(placed.clip.rate)),
			placed.clip.frame_count - 1
		)
	);
	let spare = $derived(outgoing ? placed.spare_after : placed.spare_before);
	let shortage = $derived(bench.preview.shortages.find((each) => each.side === side));
	let frames = $derived(outgoing ? bench.before : bench.after);

	function setFrames(count: number) {
		if (outgoing) bench.setWindow(count, bench.after);
		else bench.setWindow(bench.before, count);
	}
</script>

<section
	class="card"
	class:incoming={!outgoing}
	aria-label="{outgoing ? 'Outgoing' : 'Incoming'} clip"
>
	<h2 class="small">{side}</h2>
	<p
		class="name"
		title="{placed.clip.name}, {placed.clip.width}×{placed.clip.height}, {rateText(
			placed.clip.rate
		)} fps"
	>
		{placed.clip.name}
	</p>
	<img
		src="/api/clips/{placed.clip.id}/pictures/{picture}.jpg?height=256"
		alt="{placed.clip.name} at the cut"
		style:aspect-ratio="{bench.cut.width} / {bench.cut.height}"
	/>
	<dl>
		<div>
			<dt>
				<WindowUnit {bench} />
				{outgoing ? 'before the cut' : 'after the cut'}
			</dt>
			<dd class="large">
				<NumberField
					label="{windowUnit.name} {outgoing ? 'before' : 'after'} the cut"
					value={frames}
					scale={windowUnit.perFrame(bench)}
					shownTo={0.01}
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
			<dd class="figures">{timecode(atCut, bench.rate)}</dd>
		</div>
		<div>
			<dt>Speed</dt>
			<dd><SpeedField {bench} {side} /></dd>
		</div>
		<div>
			<dt>Framing</dt>
			<dd><FramingField {bench} {side} /></dd>
		</div>
		<div class="known">
			<dt>Size, rate</dt>
			<dd class="figures">
				{placed.clip.width}×{placed.clip.height}, {Number(rateNumber(placed.clip.rate).toFixed(2))}
			</dd>
		</div>
	</dl>
	{#each placed.clip.notes as note (note)}<p class="small clip-note">{note}</p>{/each}
</section>

<style>
	.card {
		width: 258px;
		padding: 12px 16px;
		overflow: hidden;
	}
	/* A low window hides the least important row and shows a smaller frame. */
	@media (max-height: 850px) {
		.known {
			display: none;
		}
	}
	@media (max-height: 790px) {
		.card img {
			width: 160px;
		}
		.incoming img {
			margin-left: auto;
		}
	}
	.incoming {
		text-align: right;
	}
	h2 {
		color: var(--color-outgoing);
		letter-spacing: 0.06em;
		text-transform: uppercase;
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
		display: block;
		width: 100%;
		margin: 6px 0 10px;
		border-right: 2px solid var(--color-seam);
		background: #000;
		object-fit: cover;
	}
	.incoming img {
		border-right: 0;
		border-left: 2px solid var(--color-seam);
	}
	dl > div {
		display: flex;
		align-items: center;
		justify-content: space-between;
		min-height: 27px;
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
