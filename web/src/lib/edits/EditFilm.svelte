<script lang="ts">
	// The clips side by side to scale, each cut with its window over both, sound and beats under it.
	import type { Placed } from '$lib/api/client';
	import { rateNumber } from '$lib/ui/numbers';
	import { beatsIn } from './beats';
	import type { Run } from './run.svelte';
	import EditCut from './EditCut.svelte';
	import Waveform from './Waveform.svelte';

	type Props = { run: Run; zoom: number; shown: string; onshow: (placedId: string) => void };
	let { run, zoom, shown, onshow }: Props = $props();

	const FILM_PX = 72;
	const SOUND_PX = 34;
	const BEAT_ROOM_PX = 3;
	const MOST_HATCHED_PX = 26;
	let seen = $state(1000);
	let width = $derived(seen * zoom);
	let scale = $derived(width / Math.max(1, run.edit.frame_count));
	let beats = $derived(
		run.beats ? beatsIn(run.beats, run.edit.frame_count, width / BEAT_ROOM_PX) : []
	);

	let names: HTMLElement;

	// Zooming keeps the chosen clip in sight.
	$effect(() => {
		if (zoom > 1 && shown)
			names
				.querySelector('[aria-pressed="true"]')
				?.scrollIntoView({ block: 'nearest', inline: 'center' });
	});

	function frames(placed: Placed): number {
		return placed.out_frame - placed.in_frame;
	}

	/** Addresses of the pictures that fill a clip's film, one for each picture's width. */
	function film(placed: Placed): string[] {
		const pictureWidth = (FILM_PX * run.edit.width) / run.edit.height;
		const count = Math.max(1, Math.ceil((frames(placed) * scale) / pictureWidth));
		return Array.from({ length: count }, (_, n) => {
			const at = placed.in_frame + ((n + 0.5) / count) * frames(placed);
			const own = Math.round((at / run.rate) * rateNumber(placed.clip.rate));
			const number = Math.min(own, placed.clip.frame_count - 1);
			return `/api/clips/${placed.clip.id}/pictures/${number}.jpg?height=144&near=true`;
		});
	}

	function place(n: number): number {
		return (run.starts[n] ?? 0) * scale;
	}

	/** Spare frames at a clip's end, as wide as they are long but never hiding the film. */
	function hatched(spare: number | null): number {
		return spare === null ? 0 : Math.min(spare * scale, MOST_HATCHED_PX);
	}
</script>

<div class="scroller" bind:clientWidth={seen}>
	<div class="run" style:width="{width}px">
		<div class="film" style:height="{FILM_PX}px">
			{#each run.edit.placed as placed, n (placed.id)}
				<div class="footage" style:left="{place(n)}px" style:width="{frames(placed) * scale - 1}px">
					{#each film(placed) as address (address)}<img
							src={address}
							alt=""
							loading="lazy"
							draggable="false"
						/>{/each}
				</div>
				<i
					class="spare"
					title="{placed.spare_before} spare frames before {placed.clip.name}"
					style:left="{place(n)}px"
					style:width="{hatched(placed.spare_before)}px"
				></i>
				<i
					class="spare"
					title="{placed.spare_after} spare frames after {placed.clip.name}"
					style:left="{place(n) + frames(placed) * scale - 1 - hatched(placed.spare_after)}px"
					style:width="{hatched(placed.spare_after)}px"
				></i>
			{/each}
			{#each run.edit.cuts as cut, n (cut.id)}
				<EditCut {run} {cut} {n} {scale} />
			{/each}
		</div>
		<div class="sound" style:height="{SOUND_PX}px">
			{#each run.edit.placed as placed, n (placed.id)}
				<Waveform
					{placed}
					rate={run.rate}
					left={place(n)}
					width={frames(placed) * scale - 1}
					height={SOUND_PX}
				/>
			{/each}
			{#each beats as beat (beat)}<i class="beat" style:left="{beat * scale}px"></i>{/each}
		</div>
		<div class="names small" bind:this={names}>
			{#each run.edit.placed as placed, n (placed.id)}
				<button
					style:left="{place(n)}px"
					style:width="{frames(placed) * scale - 8}px"
					aria-pressed={shown === placed.id}
					title="Trim, split or move {placed.clip.name}"
					onclick={() => onshow(shown === placed.id ? '' : placed.id)}>{placed.clip.name}</button
				>
			{/each}
		</div>
	</div>
</div>

<style>
	.scroller {
		padding: 16px 0 2px;
		margin-top: -4px;
		overflow-x: auto;
		overflow-y: hidden;
	}
	.run {
		position: relative;
	}
	.film {
		position: relative;
		border-radius: 6px;
		background: var(--color-surround);
	}
	.footage {
		position: absolute;
		top: 0;
		bottom: 0;
		display: flex;
		overflow: hidden;
	}
	.footage img {
		flex: 1 0 auto;
		height: 100%;
		min-width: 0;
		width: 0;
		object-fit: cover;
	}
	.spare {
		position: absolute;
		bottom: 0;
		height: 12px;
		background: repeating-linear-gradient(135deg, #f5f0e6b0 0 2px, #1c1c1cb0 2px 5px);
	}
	.sound {
		position: relative;
		margin-top: 6px;
	}
	.beat {
		position: absolute;
		top: 0;
		bottom: 0;
		width: 1px;
		background: #a8a49d90;
		pointer-events: none;
	}
	.names {
		position: relative;
		height: 26px;
	}
	.names button {
		position: absolute;
		top: 4px;
		padding: 2px 4px;
		border-radius: 4px;
		overflow: hidden;
		text-align: left;
		color: var(--color-quiet);
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.names button:hover,
	.names button[aria-pressed='true'] {
		background: var(--color-surround);
		color: var(--color-ink);
	}
</style>
