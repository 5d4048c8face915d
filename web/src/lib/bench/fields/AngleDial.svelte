<script lang="ts">
	// A dial for an angle: 0° points right, counter-clockwise; Shift turns by 15°.
	import { draggable } from '$lib/ui/drag';

	type Props = { label: string; value: number; onchange: (angle: number) => void };
	let { label, value, onchange }: Props = $props();

	const COARSE_DEG = 15;
	let radians = $derived((value * Math.PI) / 180);

	let dial: SVGElement;
	const drag = draggable(() => ({
		start: (event) => setAngle(event),
		move: (event) => setAngle(event)
	}));

	function setAngle(event: PointerEvent) {
		const box = dial.getBoundingClientRect();
		const right = event.clientX - (box.left + box.width / 2);
		const up = box.top + box.height / 2 - event.clientY;
		const step = event.shiftKey ? COARSE_DEG : 1;
		const angle = Math.round((Math.atan2(up, right) * 180) / Math.PI / step) * step;
		if (angle !== value) onchange(angle);
	}

	function onkeydown(event: KeyboardEvent) {
		const by = { ArrowUp: 1, ArrowRight: -1, ArrowDown: -1, ArrowLeft: 1 }[event.key];
		if (!by) return;
		event.preventDefault();
		event.stopPropagation();
		onchange(value + by * (event.shiftKey ? COARSE_DEG : 1));
	}
</script>

<svg
	bind:this={dial}
	class="dial"
	width="24"
	height="24"
	viewBox="-12 -12 24 24"
	role="slider"
	tabindex="0"
	aria-label="{label}: dial"
	aria-valuemin={-360}
	aria-valuemax={360}
	aria-valuenow={Math.round(value)}
	aria-valuetext="{Math.round(value)} degrees"
	{@attach drag}
	{onkeydown}
>
	<circle r="10" />
	<line x2={9 * Math.cos(radians)} y2={-9 * Math.sin(radians)} />
</svg>

<style>
	.dial {
		flex: none;
		border-radius: 50%;
		cursor: grab;
		touch-action: none;
	}
	circle {
		fill: var(--color-page);
		stroke: var(--color-edge);
	}
	line {
		stroke: var(--color-seam);
		stroke-width: 2;
		stroke-linecap: round;
	}
</style>
