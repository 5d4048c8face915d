<script lang="ts">
	// The line between original and result in the split view: dragged, or moved with the arrow keys.
	import type { View } from '$lib/bench/view.svelte';
	import { draggable } from '$lib/ui/drag';
	import { clamped } from '$lib/ui/numbers';

	let { view, canvas }: { view: View; canvas: HTMLCanvasElement } = $props();

	const STEP = 0.02;
	let box = $state({ left: 0, top: 0, width: 0, height: 0 });

	$effect(() => {
		const place = () =>
			(box = {
				left: canvas.offsetLeft,
				top: canvas.offsetTop,
				width: canvas.clientWidth,
				height: canvas.clientHeight
			});
		const watcher = new ResizeObserver(place);
		watcher.observe(canvas);
		place();
		return () => watcher.disconnect();
	});

	const drag = draggable(() => ({
		move: (event) => {
			const { left, width } = canvas.getBoundingClientRect();
			view.splitAt = clamped((event.clientX - left) / width, 0, 1);
		}
	}));

	function onkeydown(event: KeyboardEvent) {
		const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
		if (!by) return;
		event.preventDefault();
		event.stopPropagation();
		view.splitAt = clamped(view.splitAt + by, 0, 1);
	}
</script>

<div
	class="split"
	role="slider"
	tabindex="0"
	aria-label="Split line"
	aria-valuemin={0}
	aria-valuemax={100}
	aria-valuenow={Math.round(view.splitAt * 100)}
	aria-valuetext="{Math.round(view.splitAt * 100)} %"
	style:left="{box.left + view.splitAt * box.width}px"
	style:top="{box.top}px"
	style:height="{box.height}px"
	{@attach drag}
	{onkeydown}
></div>

<style>
	.split {
		position: absolute;
		width: 24px;
		margin-left: -12px;
		cursor: ew-resize;
	}
	.split::after {
		position: absolute;
		inset: 0 11px;
		background: var(--color-seam);
		content: '';
	}
</style>
