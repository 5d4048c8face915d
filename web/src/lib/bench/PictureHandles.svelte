<script lang="ts">
	// Handles on the picture for the selected pass: its centre, and its angle with its length.
	import type { Bench } from './bench.svelte';
	import {
		kindOf,
		mainValue,
		movesOf,
		withMainValue,
		type Envelope,
		type Pass,
		type Value
	} from './recipe';

	let { bench, canvas }: { bench: Bench; canvas: HTMLCanvasElement } = $props();

	const KEY_STEP = 0.01;
	const ARROW_SHARE = 0.22;
	let width = $state(0);
	let height = $state(0);
	let left = $state(0);
	let top = $state(0);

	// The picture keeps its shape inside its box: the handles lie over what is shown.
	$effect(() => {
		const place = () => {
			const shape = bench.cut.width / bench.cut.height;
			width = Math.min(canvas.clientWidth, canvas.clientHeight * shape);
			height = width / shape;
			left = canvas.offsetLeft + (canvas.clientWidth - width) / 2;
			top = canvas.offsetTop + (canvas.clientHeight - height) / 2;
		};
		const watcher = new ResizeObserver(place);
		watcher.observe(canvas);
		place();
		return () => watcher.disconnect();
	});

	let pass = $derived(bench.recipe.passes.find((each) => each.id === bench.selected));
	let kind = $derived(pass && kindOf(bench.catalogue, pass));
	let pointed = $derived(kind?.parameters.find((each) => each.control === 'point'));
	let angled = $derived(kind?.parameters.find((each) => each.control === 'angle'));
	let centre = $derived(pass && pointed ? pairOf(pass, pointed.name) : ([0.5, 0.5] as const));
	let angle = $derived(pass && angled ? Number(mainValue(pass[angled.name] as Envelope)) : 0);
	let turning = $derived(
		!!pass && !!angled && movesOf(pass[angled.name] as Envelope) === 'hold' && !followsLength(pass)
	);
	let arm = $derived(ARROW_SHARE * height);

	function pairOf(of: Pass, name: string): readonly [number, number] {
		const value = mainValue(of[name] as Envelope);
		return Array.isArray(value) ? value : [0.5, 0.5];
	}

	function followsLength(of: Pass): boolean {
		return 'length' in of && movesOf(of.length as Envelope) === 'follow';
	}

	function set(name: string, label: string, value: Value) {
		if (!pass) return;
		bench.changePass(pass.id, `${kind?.title.toLowerCase()} ${label}`, (old) => ({
			...old,
			[name]: withMainValue(old[name] as Envelope, value)
		}));
	}

	function rounded(share: number): number {
		return Number(share.toFixed(4));
	}

	function dragCentre(event: PointerEvent) {
		if (!grabbed(event) || !pointed) return;
		const box = canvas.getBoundingClientRect();
		const x = (event.clientX - box.left - (box.width - width) / 2) / width;
		const y = (event.clientY - box.top - (box.height - height) / 2) / height;
		set(pointed.name, 'centre', [rounded(x), rounded(y)]);
	}

	function dragAngle(event: PointerEvent) {
		if (!grabbed(event) || !angled) return;
		const box = canvas.getBoundingClientRect();
		const right = event.clientX - (box.left + box.width / 2);
		const up = box.top + box.height / 2 - event.clientY;
		const step = event.shiftKey ? 15 : 1;
		set(angled.name, 'angle', Math.round((Math.atan2(up, right) * 180) / Math.PI / step) * step);
	}

	function grab(event: PointerEvent) {
		event.preventDefault();
		const handle = event.currentTarget as HTMLElement;
		handle.focus();
		handle.setPointerCapture(event.pointerId);
	}

	function grabbed(event: PointerEvent): boolean {
		return (event.currentTarget as HTMLElement).hasPointerCapture(event.pointerId);
	}

	function keyCentre(event: KeyboardEvent) {
		const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
			event.key
		];
		if (!way || !pointed) return;
		event.preventDefault();
		event.stopPropagation();
		const step = KEY_STEP * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
		const [x = 0, y = 0] = way;
		set(pointed.name, 'centre', [rounded(centre[0] + x * step), rounded(centre[1] + y * step)]);
	}

	function keyAngle(event: KeyboardEvent) {
		const by = { ArrowLeft: 1, ArrowUp: 1, ArrowRight: -1, ArrowDown: -1 }[event.key];
		if (!by || !angled) return;
		event.preventDefault();
		event.stopPropagation();
		set(angled.name, 'angle', angle + by * (event.shiftKey ? 15 : 1));
	}
</script>

{#if pass && pass.enabled}
	<div
		class="over"
		style:left="{left}px"
		style:top="{top}px"
		style:width="{width}px"
		style:height="{height}px"
	>
		{#if turning}
			{@const radians = (angle * Math.PI) / 180}
			<svg aria-hidden="true" viewBox="0 0 {width} {height}">
				<line
					x1={width / 2 - arm * Math.cos(radians)}
					y1={height / 2 + arm * Math.sin(radians)}
					x2={width / 2 + arm * Math.cos(radians)}
					y2={height / 2 - arm * Math.sin(radians)}
				/>
			</svg>
			<button
				class="handle tip"
				data-handle="angle"
				aria-label="{kind?.title}: angle, {angle} degrees"
				style:left="{width / 2 + arm * Math.cos(radians)}px"
				style:top="{height / 2 - arm * Math.sin(radians)}px"
				onpointerdown={grab}
				onpointermove={dragAngle}
				onkeydown={keyAngle}
			></button>
		{/if}
		{#if pointed}
			<button
				class="handle point"
				data-handle="centre"
				aria-label="{kind?.title}: centre, {Math.round(centre[0] * 100)} % across, {Math.round(
					centre[1] * 100
				)} % down"
				style:left="{centre[0] * width}px"
				style:top="{centre[1] * height}px"
				onpointerdown={grab}
				onpointermove={dragCentre}
				onkeydown={keyCentre}
			></button>
		{/if}
	</div>
{/if}

<style>
	.over {
		position: absolute;
		pointer-events: none;
	}
	svg {
		position: absolute;
		inset: 0;
		width: 100%;
		height: 100%;
		overflow: visible;
	}
	line {
		stroke: var(--color-seam);
		stroke-width: 1.5;
		filter: drop-shadow(0 0 1px #000);
	}
	.handle {
		position: absolute;
		width: 16px;
		height: 16px;
		margin: -8px 0 0 -8px;
		border: 2px solid var(--color-seam);
		border-radius: 50%;
		box-shadow:
			0 0 0 1px #000a,
			inset 0 0 0 1px #000a;
		cursor: grab;
		pointer-events: auto;
		touch-action: none;
	}
	.point::after {
		position: absolute;
		inset: 4px;
		border-radius: 50%;
		background: var(--color-seam);
		content: '';
	}
	.tip {
		width: 12px;
		height: 12px;
		margin: -6px 0 0 -6px;
		background: var(--color-seam);
	}
</style>
