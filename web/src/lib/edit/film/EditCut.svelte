<script lang="ts">
	// A cut on the filmstrip: its window over both clips. One tab stop: the arrow keys inside choose
	// between the start of the window, the cut and the end of the window, or move what is chosen.
	import type { CutSummary } from '$lib/api/client';
	import { draggable } from '$lib/ui/drag';
	import { counted } from '$lib/ui/numbers';
	import { toNearestBeat } from '$lib/edit/beats';
	import { cutName } from '$lib/edit/editChanges';
	import type { EditDocument } from '$lib/edit/editDocument.svelte';
	import { limitedShift, roomOf, type Shifted } from '$lib/edit/room';

	type Props = { editDocument: EditDocument; cut: CutSummary; n: number; scale: number };
	let { editDocument, cut, n, scale }: Props = $props();

	const SNAPS_PX = 8;
	const PARTS: { what: Shifted; label: string }[] = [
		{ what: 'before', label: 'Start of the window' },
		{ what: 'seam', label: 'Position of the cut' },
		{ what: 'after', label: 'End of the window' }
	];
	// What is being dragged, and by how many frames.
	let drag = $state<{ part: Shifted; by: number } | null>(null);
	let current = $state<Shifted>('seam');
	let group: HTMLElement;
	let chosen = $derived(editDocument.selection.ids.includes(cut.id));

	/** With Shift or Ctrl a click chooses the cut, as in the list. */
	function choose(event: MouseEvent): boolean {
		if (!event.shiftKey && !event.ctrlKey && !event.metaKey) return false;
		editDocument.selection.toggle(cut.id, event.shiftKey);
		return true;
	}

	let frame = $derived(editDocument.starts[n + 1] ?? 0);
	let moved = $derived(drag?.part === 'seam' ? drag.by : 0);
	let before = $derived(drag?.part === 'before' ? cut.before - drag.by : cut.before);
	let after = $derived(drag?.part === 'after' ? cut.after + drag.by : cut.after);
	let seam = $derived((frame + moved) * scale);
	let onBeat = $derived(toNearestBeat(editDocument.beatFrames, frame + moved) === 0);
	let tooltip = $derived(
		drag?.part === 'seam'
			? `${moved > 0 ? '+' : ''}${counted(moved, 'frame')}${onBeat ? ', on the beat' : ''}`
			: `${before} | ${after}`
	);

	/** Snap a move to a beat that is near, unless Alt is pressed. */
	function snapped(by: number, free: boolean): number {
		const rest = toNearestBeat(editDocument.beatFrames, frame + by);
		if (free || rest === null) return by;
		return Math.abs(rest) * scale < SNAPS_PX ? by + rest : by;
	}

	/** The change is sent once, when the drag ends. */
	function dragOf(what: Shifted) {
		return draggable(() => ({
			start: () => {
				current = what;
				drag = { part: what, by: 0 };
			},
			move: (event, right) => {
				const by = Math.round(right / scale);
				const wanted = what === 'seam' ? snapped(by, event.altKey) : by;
				drag = { part: what, by: limitedShift(roomOf(editDocument.edit, n), cut, what, wanted) };
			},
			end: (event) => {
				const by = drag?.by ?? 0;
				drag = null;
				if (event.type === 'pointercancel') return;
				if (by) editDocument.shift(cut.id, what, by);
				else choose(event);
			}
		}));
	}
	const drags = { before: dragOf('before'), seam: dragOf('seam'), after: dragOf('after') };

	function onkeydown(event: KeyboardEvent, what: Shifted) {
		const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
		const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
		if (by) editDocument.shift(cut.id, what, by * (event.shiftKey ? 5 : 1));
		else if (step) {
			const next = PARTS[PARTS.findIndex((part) => part.what === what) + step];
			if (next) {
				current = next.what;
				group.querySelector<HTMLElement>(`.handle.${next.what}`)?.focus();
			}
		} else if (event.key === 'Enter') group.querySelector('a')?.click();
		else return;
		event.preventDefault();
		event.stopPropagation();
	}

	function left(what: Shifted): number {
		if (what === 'seam') return seam;
		return what === 'before' ? seam - before * scale : seam + after * scale;
	}

	function valueOf(what: Shifted): number {
		return what === 'seam' ? frame + moved : what === 'before' ? before : after;
	}
</script>

<div
	class="group"
	data-cut={cut.id}
	role="group"
	bind:this={group}
	aria-label="Cut {n + 1}. Up and down: another part; left and right: move it; Enter: open"
>
	<a
		href="/cuts/{cut.id}"
		class="cut"
		class:chosen
		tabindex="-1"
		style:left="{seam - before * scale}px"
		style:width="{(before + after) * scale}px"
		onclick={(event) => choose(event) && event.preventDefault()}
		aria-label="Cut {n + 1}: {cutName(cut)}, {cut.before} | {cut.after} frames"
	>
		<i class="out" style:width="{(100 * before) / (before + after)}%"></i>
		<i class="in"></i>
	</a>
	<div class="line" class:beat={drag && onBeat} style:left="{seam - 1}px"></div>
	{#each PARTS as { what, label } (what)}
		<div
			class="handle {what}"
			class:dragged={drag?.part === what}
			role="slider"
			tabindex={what === current ? 0 : -1}
			aria-label="{label}, cut {n + 1}"
			aria-valuenow={valueOf(what)}
			aria-valuetext={what === 'seam' ? `frame ${frame + moved}` : counted(valueOf(what), 'frame')}
			style:left="{left(what)}px"
			{@attach drags[what]}
			onkeydown={(event) => onkeydown(event, what)}
		></div>
	{/each}
	{#if drag}<span class="tooltip figures" style:left="{left(drag.part)}px">{tooltip}</span>{/if}
</div>

<style>
	.group {
		display: contents;
	}
	.group:global([data-dropping]) .cut {
		box-shadow: 0 0 0 2px var(--color-seam);
	}
	.cut {
		position: absolute;
		top: -5px;
		bottom: -5px;
		display: flex;
		min-width: 10px;
	}
	.chosen {
		box-shadow: 0 0 0 2px var(--color-seam);
		border-radius: 4px;
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
		top: 14px;
		bottom: -5px;
		width: 8px;
		border-radius: 4px;
		cursor: ew-resize;
	}
	/* Where there is room, the targets are wider than what is seen. */
	.handle.before {
		width: 24px;
		margin-left: -22px;
		border-right: 2px solid transparent;
	}
	.handle.after {
		width: 24px;
		margin-left: -2px;
		border-left: 2px solid transparent;
	}
	.handle:hover,
	.handle.dragged,
	.handle:focus-visible {
		border-color: var(--color-seam);
		background: #f5f0e633;
	}
	.handle.seam {
		top: -17px;
		bottom: auto;
		width: 24px;
		height: 24px;
		margin-left: -12px;
	}
	.handle.seam::after {
		position: absolute;
		inset: 4px 6px 8px;
		border-radius: 3px 3px 50% 50%;
		background: var(--color-seam);
		content: '';
	}
	.tooltip {
		position: absolute;
		bottom: -34px;
		z-index: 2;
		padding: 2px 8px;
		border: 1px solid var(--color-edge);
		border-radius: 6px;
		background: var(--color-panel);
		font-size: 12px;
		white-space: nowrap;
		transform: translateX(-50%);
		pointer-events: none;
	}
</style>
