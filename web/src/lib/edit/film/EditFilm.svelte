<script lang="ts">
	// The clips side by side to scale, each cut with its window over both, sound and beats under it.
	// Only what is in sight is drawn.
	import type { Placed } from '$lib/api/client';
	import { pictureAddress } from '$lib/clips/frames';
	import { clamped, counted } from '$lib/ui/numbers';
	import { beatsIn } from '$lib/edit/beats';
	import EditCut from './EditCut.svelte';
	import type { EditDocument } from '$lib/edit/editDocument.svelte';
	import type { FilmPlayer } from './filmPlayer.svelte';
	import { spareAfter, spareBefore } from '$lib/clips/shown';
	import type { MusicPlayer } from '$lib/sound/musicPlayer.svelte';
	import MusicTrack from './MusicTrack.svelte';
	import Waveform from '$lib/clips/Waveform.svelte';

	type Props = {
		editDocument: EditDocument;
		/** How many times as wide as its room the film is. */
		zoom: number;
		mostZoom: number;
		player: MusicPlayer;
		/** The player of the whole edit, where it is open. */
		film: FilmPlayer | null;
		shown: string;
		onshow: (placedId: string) => void;
	};
	let { editDocument, zoom = $bindable(), mostZoom, player, film, shown, onshow }: Props = $props();

	const FILM_PX = 72;
	const SOUND_PX = 34;
	const BEAT_ROOM_PX = 3;
	const MOST_HATCHED_PX = 26;
	/** Narrower clips share their neighbour's name. */
	const NAME_ROOM_PX = 24;
	/** Cuts closer together than this are drawn as lines alone: zoom in to move them. */
	const CUT_ROOM_PX = 12;
	/** Clips narrower than this share one picture. */
	const PICTURE_ROOM_PX = 16;
	/** Drawn beyond both edges, so that scrolling shows no gaps. */
	const BEYOND_PX = 400;
	/** So much of the wheel doubles the zoom. */
	const WHEEL_PX = 300;

	let seen = $state(1000);
	let scrolled = $state(0);
	let scroller: HTMLElement;
	let width = $derived(seen * zoom);
	let scale = $derived(width / Math.max(1, editDocument.edit.frame_count));
	let beats = $derived(
		beatsIn(editDocument.beatFrames, editDocument.edit.frame_count, width / BEAT_ROOM_PX)
	);
	let pictureWidth = $derived((FILM_PX * editDocument.edit.width) / editDocument.edit.height);
	let inSight = $derived({ from: scrolled - BEYOND_PX, to: scrolled + seen + BEYOND_PX });
	let clips = $derived(
		editDocument.edit.placed
			.map((placed, n) => ({ placed, n, left: place(n), right: place(n) + length(placed) }))
			.filter(({ left, right }) => right > inSight.from && left < inSight.to)
	);
	let dense = $derived(width / Math.max(1, editDocument.edit.cuts.length) < CUT_ROOM_PX);
	/** The clips that have a picture, each as wide as up to the next that has one. */
	let pictured = $derived.by(() => {
		const found: { placed: Placed; left: number; width: number }[] = [];
		for (const { placed, left, right } of clips) {
			const last = found.at(-1);
			if (last && last.width < PICTURE_ROOM_PX) last.width = right - last.left - 1;
			else found.push({ placed, left, width: right - left - 1 });
		}
		return found;
	});
	let cuts = $derived(
		editDocument.edit.cuts
			.map((cut, n) => ({ cut, n, at: place(n + 1) }))
			.filter(({ at }) => at > inSight.from && at < inSight.to)
	);

	let lines = $derived(
		dense ? cuts.map(({ at }) => `M${at.toFixed(1)},0V${FILM_PX}`).join('') : ''
	);

	/** The place on the film, in frames, that stays under the pointer while the wheel zooms. */
	let held: { frame: number; x: number } | null = null;

	function onwheel(event: WheelEvent) {
		const isSideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
		const next = clamped(zoom * 2 ** (-event.deltaY / WHEEL_PX), 1, mostZoom);
		// At the widest view the wheel scrolls the page, as it does elsewhere.
		if (isSideways || next === zoom) return;
		event.preventDefault();
		const x = event.clientX - scroller.getBoundingClientRect().left;
		held = { frame: (scroller.scrollLeft + x) / scale, x };
		zoom = next;
	}

	// Zooming keeps what is under the pointer in its place, and else the chosen clip in sight.
	$effect(() => {
		if (held) {
			scroller.scrollTo({ left: held.frame * scale - held.x });
			held = null;
			return;
		}
		const n = editDocument.edit.placed.findIndex((each) => each.id === shown);
		if (zoom > 1 && n >= 0) scroller.scrollTo({ left: place(n) - seen / 3 });
	});

	function place(n: number): number {
		return (editDocument.starts[n] ?? 0) * scale;
	}

	function length(placed: Placed): number {
		return placed.edit_frames * scale;
	}

	/** Addresses of the pictures that fill a clip's film, one for each picture's width. */
	function addresses(placed: Placed): string[] {
		const count = Math.max(1, Math.ceil(length(placed) / pictureWidth));
		const frames = placed.end_shown - placed.first_shown;
		return Array.from({ length: count }, (_, n) => {
			const frame = Math.floor(placed.first_shown + ((n + 0.5) / count) * frames);
			return pictureAddress(placed.clip, frame, editDocument.rate, 144, true);
		});
	}

	/** Spare frames at a clip's end, as wide as they are long but never hiding the film. */
	function hatched(spare: number | null): number {
		return spare === null ? 0 : Math.min(spare * scale, MOST_HATCHED_PX);
	}
</script>

<div
	class="scroller"
	bind:this={scroller}
	bind:clientWidth={seen}
	{onwheel}
	onscroll={() => (scrolled = scroller.scrollLeft)}
>
	<div class="run" style:width="{width}px">
		<div class="film" style:height="{FILM_PX}px">
			{#each pictured as { placed, left, width: wide } (placed.id)}
				<div class="footage" style:left="{left}px" style:width="{wide}px">
					{#each addresses(placed) as address, n (n)}<img
							src={address}
							alt=""
							loading="lazy"
							draggable="false"
						/>{/each}
				</div>
			{/each}
			{#if dense}
				<svg class="lines" {width} height={FILM_PX} aria-hidden="true"><path d={lines} /></svg>
			{:else}
				{#each clips as { placed, left } (placed.id)}
					<i class="spare" style:left="{left}px" style:width="{hatched(spareBefore(placed))}px"></i>
					<i
						class="spare"
						style:left="{left + length(placed) - 1 - hatched(spareAfter(placed))}px"
						style:width="{hatched(spareAfter(placed))}px"
					></i>
				{/each}
				{#each cuts as { cut, n } (cut.id)}
					<EditCut {editDocument} {cut} {n} {scale} />
				{/each}
			{/if}
		</div>
		<div class="sound" style:height="{SOUND_PX}px">
			{#if !dense}
				{#each clips as { placed, left } (placed.id)}
					<Waveform
						{placed}
						rate={editDocument.rate}
						{left}
						width={length(placed) - 1}
						height={SOUND_PX}
					/>
				{/each}
			{/if}
			{#each beats as beat (beat)}
				{#if beat * scale > inSight.from && beat * scale < inSight.to}
					<i class="beat" style:left="{beat * scale}px"></i>
				{/if}
			{/each}
		</div>
		{#if editDocument.edit.music}
			<MusicTrack
				music={editDocument.edit.music}
				rate={editDocument.rate}
				{scale}
				{width}
				height={SOUND_PX}
			/>
		{/if}
		{#if film}
			<i class="playhead" style:left="{film.frame * scale}px"></i>
		{:else if player.playing}
			<i class="playhead" style:left="{player.positionS * editDocument.rate * scale}px"></i>
		{/if}
		<div class="names small">
			{#each clips as { placed, left } (placed.id)}
				{#if length(placed) >= NAME_ROOM_PX}
					<button
						style:left="{left}px"
						style:width="{Math.max(24, length(placed) - 4)}px"
						aria-pressed={shown === placed.id}
						aria-label="{placed.name}: trim, split or move. Spare frames: {placed.spare_before ??
							'unlimited'} before, {placed.spare_after ?? 'unlimited'} after"
						onclick={() => onshow(shown === placed.id ? '' : placed.id)}>{placed.name}</button
					>
				{/if}
			{/each}
		</div>
	</div>
</div>
{#if dense}
	<p class="small text-quiet">
		{counted(editDocument.edit.cuts.length, 'cut')} in sight: zoom in to move them
	</p>
{/if}

<style>
	.scroller {
		flex: none;
		padding: 18px 0 2px;
		margin-top: -8px;
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
	.lines {
		position: absolute;
		inset: 0;
		pointer-events: none;
	}
	.lines path {
		stroke: var(--color-seam);
		stroke-width: 1;
		opacity: 0.4;
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
	.playhead {
		position: absolute;
		top: 0;
		bottom: 28px;
		width: 2px;
		background: var(--color-ink);
		pointer-events: none;
	}
	.names {
		position: relative;
		height: 28px;
	}
	.names button {
		position: absolute;
		top: 2px;
		height: 24px;
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
	.names button[aria-pressed='true'] {
		box-shadow: inset 0 -2px var(--color-seam);
	}
</style>
