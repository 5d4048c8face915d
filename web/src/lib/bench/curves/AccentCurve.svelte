<script lang="ts">
	// The waveform of the accent, with handles for its start, peak, end and fades.
	import type { Axis } from '$lib/bench/strip/axis';
	import { tOf, uOf } from '$lib/bench/strip/axis';
	import { fadeEnd, withFadeEnd, withTime, type Accent } from '$lib/recipe/accent';
	import { draggable } from '$lib/ui/drag';
	import { clamped } from '$lib/ui/numbers';
	import type { Waveform } from '$lib/sound/accentSound.svelte';

	type Props = {
		axis: Axis;
		accent: Accent;
		height: number;
		open: boolean;
		/** Frames a second. */
		rate: number;
		waveform: Waveform | null;
		onchange: (label: string, next: Accent) => void;
	};
	let { axis, accent, height, open, rate, waveform, onchange }: Props = $props();

	type Handle = {
		id: 'start' | 'peak' | 'end' | 'fade_in' | 'fade_out';
		label: string;
		u: number;
		top: boolean;
	};
	const EDGE_PX = 6;
	/** The quietest level that is drawn. */
	const FLOOR_DB = -48;

	let middle = $derived(height / 2);
	let reach = $derived(height / 2 - 4);
	let loudest = $derived(Math.max(1e-6, ...(waveform?.peaks ?? [])));
	let outline = $derived.by(() => {
		if (!waveform?.lengthS) return '';
		const { peaks, firstS, lengthS } = waveform;
		const x = (n: number) => axis.x((firstS + ((n + 0.5) / peaks.length) * lengthS) * rate);
		// In decibels, so that fades are seen; the form of the sound counts, not its level.
		const y = (peak: number) =>
			Math.max(0, 1 - (20 * Math.log10(Math.max(peak / loudest, 1e-6))) / FLOOR_DB) * reach;
		const upper = peaks.map((peak, n) => `${x(n)},${middle - y(peak)}`);
		const lower = peaks.map((peak, n) => `${x(n)},${middle + y(peak)}`).toReversed();
		return [...upper, ...lower].join(' ');
	});
	let handles = $derived<Handle[]>([
		{ id: 'fade_in', label: 'Fade in', u: fadeEnd(accent, 'fade_in'), top: true },
		{ id: 'fade_out', label: 'Fade out', u: fadeEnd(accent, 'fade_out'), top: true },
		{ id: 'start', label: 'Start', u: accent.start, top: false },
		{ id: 'end', label: 'End', u: accent.end, top: false },
		{ id: 'peak', label: 'Peak', u: accent.peak, top: false }
	]);

	function moved(id: Handle['id'], u: number): Accent {
		return id === 'fade_in' || id === 'fade_out'
			? withFadeEnd(accent, id, u)
			: withTime(accent, id, u);
	}

	function move(handle: Handle, t: number, free: boolean) {
		const fade = handle.id.startsWith('fade');
		onchange(
			`${handle.label} of the accent`,
			moved(handle.id, uOf(axis, fade || free ? t : Math.round(t)))
		);
	}

	function dragOf(id: Handle['id']) {
		return draggable(() => {
			const handle = handles.find((each) => each.id === id)!;
			const { cell } = axis;
			return {
				start: (event) => (event.currentTarget as SVGElement).focus(),
				move: (event, right) => move(handle, tOf(axis, handle.u) + right / cell, event.altKey)
			};
		});
	}
	const drags: Record<string, ReturnType<typeof dragOf>> = {};
	const dragFor = (id: Handle['id']) => (drags[id] ??= dragOf(id));

	function onkeydown(event: KeyboardEvent, handle: Handle) {
		const right = { ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? 0;
		if (!right || event.ctrlKey || event.metaKey) return;
		event.preventDefault();
		event.stopPropagation();
		const step = event.shiftKey ? 5 : event.altKey ? 0.1 : handle.top ? 0.25 : 1;
		move(handle, tOf(axis, handle.u) + right * step, event.altKey);
	}

	const xOf = (u: number) => clamped(axis.x(tOf(axis, u)), EDGE_PX, axis.width - EDGE_PX);
	const frame = (u: number) => Number(tOf(axis, u).toFixed(2));
</script>

<svg width={axis.width} {height} role="group" aria-label="Waveform of the accent">
	<polygon points={outline} class="wave" />
	{#if open}
		{#each handles as handle (handle.id)}
			{@const x = xOf(handle.u)}
			<g
				class="handle"
				role="slider"
				tabindex="0"
				aria-label="{handle.label} of the accent"
				aria-valuenow={frame(handle.u)}
				aria-valuetext="frame {frame(handle.u)}"
				data-handle={handle.id}
				{@attach dragFor(handle.id)}
				onkeydown={(event) => onkeydown(event, handle)}
			>
				{#if !handle.top}
					<line x1={x} x2={x} y1="4" y2={height - 4} />
					<line class="grip" x1={x} x2={x} y1="4" y2={height - 4} />
				{/if}
				<circle cx={x} cy={handle.top ? 14 : height - 14} r="12" class="reach" />
				{#if handle.top}
					<circle cx={x} cy="14" r="4" class="knob" />
				{:else if handle.id === 'peak'}
					<rect
						x={x - 5}
						y={height - 19}
						width="10"
						height="10"
						rx="1.5"
						transform="rotate(45 {x} {height - 14})"
						class="seam"
					/>
				{:else}
					<rect
						x={x - 4.5}
						y={height - 18.5}
						width="9"
						height="9"
						rx="2"
						class={handle.id === 'start' ? 'out' : 'in'}
					/>
				{/if}
			</g>
		{/each}
	{/if}
</svg>

<style>
	svg {
		display: block;
		overflow: hidden;
	}
	.wave {
		fill: #6f6a62;
	}
	.handle {
		cursor: ew-resize;
	}
	.handle:focus-visible {
		outline: none;
	}
	.handle:focus-visible .reach {
		stroke: var(--color-seam);
		stroke-width: 2;
	}
	.reach {
		fill: transparent;
	}
	line {
		stroke: var(--color-quiet);
		stroke-dasharray: 2 3;
	}
	.grip {
		stroke: transparent;
		stroke-dasharray: none;
		stroke-width: 12;
		pointer-events: stroke;
	}
	.knob {
		fill: var(--color-page);
		stroke: var(--color-ink);
		stroke-width: 1.4;
	}
	.seam {
		fill: var(--color-seam);
		stroke: #1c1c1c;
	}
	.out {
		fill: var(--color-outgoing);
	}
	.in {
		fill: var(--color-incoming);
	}
</style>
