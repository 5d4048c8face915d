<script lang="ts">
	// A number field: type, drag sideways, step with arrow keys (Shift ×10, Alt ×0.1), double-click to
	// reset. `onchange` is called while dragging, `oncommit` at the end of each change.
	import { rounded, clamped } from './numbers';

	type Props = {
		value: number;
		label: string;
		unit?: string;
		low?: number;
		high?: number;
		step?: number;
		scale?: number;
		rest?: number | null;
		/** The rounding of the shown number; a tenth of the step by default. */
		shownTo?: number;
		wide?: boolean;
		onchange: (value: number) => void;
		oncommit?: () => void;
	};
	let {
		value,
		label,
		unit = '',
		low = -Infinity,
		high = Infinity,
		step = 1,
		scale = 1,
		rest = null,
		shownTo,
		wide = false,
		onchange,
		oncommit
	}: Props = $props();

	const PIXELS_A_STEP = 4;
	const DRAG_STARTS_PX = 3;
	let typed = $state<string | null>(null);
	let drag: { x: number; from: number; moved: boolean } | null = null;

	// Shown ten times finer than the step, so that a value between steps does not look like a step.
	let text = $derived(typed ?? String(rounded(value * scale, shownTo ?? (step * scale) / 10)));

	function offer(next: number) {
		const fitting = clamped(rounded(next, step / 10), low, high);
		if (fitting !== value) onchange(fitting);
	}

	function onkeydown(event: KeyboardEvent) {
		const field = event.currentTarget as HTMLInputElement;
		if (event.key === 'Enter') field.blur();
		if (event.key === 'Escape') {
			typed = null;
			field.blur();
		}
		const direction = { ArrowUp: 1, ArrowDown: -1 }[event.key];
		if (!direction) return;
		event.preventDefault();
		const size = step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
		typed = null;
		offer(value + direction * size);
		oncommit?.();
	}

	function take() {
		if (typed === null) return;
		const number = Number(typed.replace(',', '.').replace('−', '-'));
		if (typed.trim() !== '' && Number.isFinite(number)) {
			offer(number / scale);
			oncommit?.();
		}
		typed = null;
	}

	function onpointerdown(event: PointerEvent) {
		if (document.activeElement === event.currentTarget) return;
		event.preventDefault();
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		drag = { x: event.clientX, from: value, moved: false };
	}

	function onpointermove(event: PointerEvent) {
		if (!drag) return;
		const far = event.clientX - drag.x;
		if (!drag.moved && Math.abs(far) < DRAG_STARTS_PX) return;
		drag.moved = true;
		const size = step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
		offer(drag.from + Math.round(far / PIXELS_A_STEP) * size);
	}

	function onpointerup(event: PointerEvent) {
		if (!drag) return;
		const { moved } = drag;
		drag = null;
		if (moved) oncommit?.();
		else {
			const field = event.currentTarget as HTMLInputElement;
			field.focus();
			field.select();
		}
	}

	function ondblclick() {
		if (rest === null) return;
		typed = null;
		offer(rest);
		oncommit?.();
	}
</script>

<span class="field" class:wide>
	<input
		class="figures"
		type="text"
		inputmode="decimal"
		role="spinbutton"
		aria-label={label}
		aria-valuenow={value}
		aria-valuetext="{text} {unit}"
		value={text}
		oninput={(event) => (typed = event.currentTarget.value)}
		onblur={take}
		{onkeydown}
		{onpointerdown}
		{onpointermove}
		{onpointerup}
		{ondblclick}
	/>
	{#if unit}<span class="unit small">{unit}</span>{/if}
</span>

<style>
	.field {
		display: inline-flex;
		align-items: center;
		height: 24px;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-page);
		overflow: hidden;
	}
	.field:hover {
		border-color: #5a5a5a;
	}
	.field:focus-within {
		border-color: var(--color-seam);
	}
	input {
		width: 52px;
		height: 100%;
		padding: 0 6px;
		border: 0;
		background: transparent;
		color: var(--color-ink);
		font-size: 12px;
		cursor: ew-resize;
		touch-action: none;
	}
	input:focus {
		cursor: text;
		box-shadow: none;
		outline: none;
	}
	.wide input {
		width: 66px;
	}
	.unit {
		padding-right: 6px;
		color: var(--color-quiet);
		white-space: nowrap;
	}
</style>
