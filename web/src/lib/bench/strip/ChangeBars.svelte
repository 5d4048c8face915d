<script lang="ts">
	// How much each frame differs from the one before it, as bars: the shape of the snap, and a spike
	// where something jumps. Arrow keys read the values one by one.
	import { fromCut } from '$lib/ui/numbers';
	import { frameAt, type Axis } from './axis';

	let { axis, changes, shown }: { axis: Axis; changes: number[]; shown: number } = $props();

	const HEIGHT_PX = 24;
	const LEAST_SCALE = 0.02;
	let pointed = $state<number | null>(null);
	let tallest = $derived(Math.max(...changes, LEAST_SCALE));
	/** The frame whose value is read: under the pointer, chosen by key, or shown. */
	let read = $derived(Math.min(Math.max(pointed ?? shown, -axis.before), axis.after - 1));
	let text = $derived(valueText(read));

	function valueText(offset: number): string {
		const change = changes[offset + axis.before];
		return change === undefined
			? `Frame ${fromCut(offset)}: loading`
			: `Frame ${fromCut(offset)}: changes by ${(change * 100).toFixed(1)} %`;
	}

	function onpointermove(event: PointerEvent) {
		const box = (event.currentTarget as Element).getBoundingClientRect();
		pointed = frameAt(axis, event.clientX - box.left);
	}

	function onkeydown(event: KeyboardEvent) {
		const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
		if (by) pointed = Math.min(Math.max(read + by, -axis.before), axis.after - 1);
		else if (event.key === 'Home') pointed = -axis.before;
		else if (event.key === 'End') pointed = axis.after - 1;
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<div
	class="bars"
	role="slider"
	tabindex="0"
	aria-label="Change per frame"
	aria-valuemin={-axis.before}
	aria-valuemax={axis.after - 1}
	aria-valuenow={read}
	aria-valuetext={text}
	{onpointermove}
	onpointerleave={() => (pointed = null)}
	onblur={() => (pointed = null)}
	{onkeydown}
>
	<svg class="change" height={HEIGHT_PX} aria-hidden="true">
		{#each changes as change, n (n)}
			{@const offset = n - axis.before}
			{#if offset < axis.after}
				<rect
					x={axis.x(offset) + axis.cell * 0.22}
					width={Math.max(1, axis.cell * 0.56)}
					y={HEIGHT_PX - 2 - (change / tallest) * (HEIGHT_PX - 4)}
					height={Math.max(1, (change / tallest) * (HEIGHT_PX - 4))}
					class={offset < 0 ? 'out' : 'in'}
					class:read={pointed === offset}
				/>
			{/if}
		{/each}
	</svg>
	{#if pointed !== null}
		<span
			class="value figures small"
			style:left="{Math.min(Math.max(axis.x(read + 0.5), 90), axis.width - 90)}px">{text}</span
		>
	{/if}
</div>

<style>
	.bars {
		position: relative;
	}
	svg {
		display: block;
		width: 100%;
	}
	.out {
		fill: var(--color-outgoing);
		opacity: 0.75;
	}
	.in {
		fill: var(--color-incoming);
		opacity: 0.85;
	}
	.read {
		fill: var(--color-seam);
		opacity: 1;
	}
	.value {
		position: absolute;
		bottom: 26px;
		z-index: 3;
		padding: 1px 6px;
		border: 1px solid var(--color-edge);
		border-radius: 4px;
		background: var(--color-page);
		white-space: nowrap;
		transform: translateX(-50%);
		pointer-events: none;
	}
</style>
