<script lang="ts">
	// A cut on the filmstrip: its window over both clips. Its ends and the cut can be dragged.
	import type { CutSummary } from '$lib/api/client';
	import { counted } from '$lib/ui/numbers';
	import { toNearestBeat } from './beats';
	import { heldShift, roomOf, type Shifted } from './room';
	import { cutName, type Run } from './run.svelte';

	type Props = { run: Run; cut: CutSummary; n: number; scale: number };
	let { run, cut, n, scale }: Props = $props();

	const SNAPS_PX = 8;
	// What is being dragged, and by how many frames.
	let drag = $state<{ held: Shifted; x: number; by: number } | null>(null);

	let frame = $derived(run.starts[n + 1] ?? 0);
	let room = $derived(roomOf(run.edit, n));
	let moved = $derived(drag?.held === 'seam' ? drag.by : 0);
	let before = $derived(drag?.held === 'before' ? cut.before - drag.by : cut.before);
	let after = $derived(drag?.held === 'after' ? cut.after + drag.by : cut.after);
	let seam = $derived((frame + moved) * scale);
	let onBeat = $derived(run.beats !== null && toNearestBeat(run.beats, frame + moved) === 0);
	let tooltip = $derived(
		drag?.held === 'seam'
			? `${moved > 0 ? '+' : ''}${counted(moved, 'frame')}${onBeat ? ', on the beat' : ''}`
			: `${before} | ${after}`
	);

	/** Snap a move to a beat that is near, unless Alt is pressed. */
	function snapped(by: number, free: boolean): number {
		if (free || !run.beats) return by;
		const rest = toNearestBeat(run.beats, frame + by);
		return Math.abs(rest) * scale < SNAPS_PX ? by + rest : by;
	}

	function onpointerdown(event: PointerEvent, what: Shifted) {
		event.preventDefault();
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		drag = { held: what, x: event.clientX, by: 0 };
	}

	function onpointermove(event: PointerEvent) {
		if (!drag || !event.buttons) return;
		const by = Math.round((event.clientX - drag.x) / scale);
		const wanted = drag.held === 'seam' ? snapped(by, event.altKey) : by;
		drag.by = heldShift(room, cut, drag.held, wanted);
	}

	async function onpointerup() {
		if (!drag) return;
		const ended = drag;
		if (ended.by) await run.shift(cut.id, ended.held, ended.by);
		// Another drag may have begun meanwhile.
		if (drag === ended) drag = null;
	}

	function onkeydown(event: KeyboardEvent, what: Shifted) {
		const direction = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
		if (!direction) return;
		event.preventDefault();
		void run.shift(cut.id, what, direction * (event.shiftKey ? 5 : 1));
	}

	const HANDLES: { what: Shifted; label: string; hint: string }[] = [
		{ what: 'before', label: 'Start of the window', hint: 'Drag, or arrow keys' },
		{
			what: 'seam',
			label: 'Position of the cut',
			hint: 'Drag to move the cut; with Alt it does not snap to beats'
		},
		{ what: 'after', label: 'End of the window', hint: 'Drag, or arrow keys' }
	];

	function left(what: Shifted): number {
		if (what === 'seam') return seam;
		return what === 'before' ? seam - before * scale : seam + after * scale;
	}

	function valueOf(what: Shifted): number {
		return what === 'seam' ? frame + moved : what === 'before' ? before : after;
	}
</script>

<a
	href="/cuts/{cut.id}"
	class="cut"
	style:left="{seam - before * scale}px"
	style:width="{(before + after) * scale}px"
	aria-label="Cut {n + 1}: {cutName(cut)}"
	title="Cut {n + 1}: {cutName(cut)}, {cut.before} | {cut.after} frames"
>
	<i class="out" style:width="{(100 * before) / (before + after)}%"></i>
	<i class="in"></i>
</a>
<div class="line" class:beat={drag && onBeat} style:left="{seam - 1}px"></div>
{#each HANDLES as { what, label, hint } (what)}
	<div
		class="handle {what}"
		class:held={drag?.held === what}
		role="slider"
		tabindex="0"
		aria-label="{label}, cut {n + 1}"
		aria-valuenow={valueOf(what)}
		aria-valuetext={what === 'seam' ? `frame ${frame + moved}` : counted(valueOf(what), 'frame')}
		title="{label}. {hint}"
		style:left="{left(what)}px"
		onpointerdown={(event) => onpointerdown(event, what)}
		{onpointermove}
		{onpointerup}
		onpointercancel={() => (drag = null)}
		onkeydown={(event) => onkeydown(event, what)}
	></div>
{/each}
{#if drag}<span class="tooltip figures" style:left="{left(drag.held)}px">{tooltip}</span>{/if}

<style>
	.cut {
		position: absolute;
		top: -5px;
		bottom: -5px;
		display: flex;
		min-width: 10px;
	}
	.cut i {
		border-radius: 4px 0 0 4px;
		border: 2px solid var(--color-outgoing);
		border-right: 0;
		background: #f0a86833;
	}
	.cut i.in {
		flex: 1;
		border: 2px solid var(--color-incoming);
		border-left: 0;
		border-radius: 0 4px 4px 0;
		background: #63b5a333;
	}
	.cut:hover i {
		background: #f5f0e64d;
	}
	.line {
		position: absolute;
		top: -8px;
		bottom: -42px;
		width: 2px;
		background: var(--color-seam);
		pointer-events: none;
	}
	.line.beat {
		width: 4px;
		margin-left: -1px;
	}
	.handle {
		position: absolute;
		top: -5px;
		bottom: -5px;
		width: 8px;
		border-radius: 4px;
		cursor: ew-resize;
		touch-action: none;
	}
	.handle.before {
		margin-left: -6px;
	}
	.handle.after {
		margin-left: -2px;
	}
	.handle:hover,
	.handle.held {
		background: var(--color-seam);
	}
	.handle.seam {
		top: -14px;
		bottom: auto;
		width: 11px;
		height: 11px;
		margin-left: -5.5px;
		border-radius: 3px 3px 50% 50%;
		background: var(--color-seam);
	}
	.tooltip {
		position: absolute;
		bottom: -34px;
		z-index: 2;
		padding: 2px 8px;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-panel);
		font-size: 12px;
		white-space: nowrap;
		transform: translateX(-50%);
		pointer-events: none;
	}
</style>
