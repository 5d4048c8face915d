<script lang="ts">
	// A number field: type, drag sideways, step with arrow keys (Shift ×10, Alt ×0.1), double-click to
	// reset. `onchange` is called while dragging.
	import { draggable } from './drag';
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
		/** Without it, `onchange` is called when a drag ends, not while it lasts. */
		live?: boolean;
		onchange: (value: number) => void;
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
		live = true,
		onchange
	}: Props = $props();

	const PIXELS_A_STEP = 4;
	let typed = $state<string | null>(null);
	/** The value of a drag that is not handed on before it ends. */
	let dragged = $state<number | null>(null);
	let field: HTMLInputElement;

	// Shown ten times finer than the step, so that a value between steps does not look like a step.
	let text = $derived(
		typed ?? String(rounded((dragged ?? value) * scale, shownTo ?? (step * scale) / 10))
	);

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
	}

	function take() {
		if (typed === null) return;
		const number = Number(typed.replace(',', '.').replace('−', '-'));
		if (typed.trim() !== '' && Number.isFinite(number)) {
			offer(number / scale);
		}
		typed = null;
	}

	const drag = draggable(() => {
		const from = value;
		return {
			// A focused field is edited: the pointer selects its text.
			start: () => document.activeElement !== field,
			move: (event, right) => {
				const size = step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
				const next = clamped(
					rounded(from + Math.round(right / PIXELS_A_STEP) * size, step / 10),
					low,
					high
				);
				if (live) offer(next);
				else dragged = next;
			},
			end: (_, moved) => {
				if (dragged !== null) offer(dragged);
				dragged = null;
				if (moved) return;
				field.focus();
				field.select();
			}
		};
	});

	function ondblclick() {
		if (rest === null) return;
		typed = null;
		offer(rest);
	}
</script>

<span class="field" class:wide>
	<input
		bind:this={field}
		class="figures"
		type="text"
		inputmode="decimal"
		role="spinbutton"
		aria-label={label}
		aria-valuenow={dragged ?? value}
		aria-valuemin={Number.isFinite(low) ? low : undefined}
		aria-valuemax={Number.isFinite(high) ? high : undefined}
		aria-valuetext="{text} {unit}"
		value={text}
		oninput={(event) => (typed = event.currentTarget.value)}
		onblur={take}
		{onkeydown}
		{@attach drag}
		{ondblclick}
	/>
	{#if unit}<span class="unit small">{unit}</span>{/if}
</span>

<style>
	.field {
		display: inline-flex;
		align-items: center;
		height: 26px;
		border: 1px solid var(--color-edge);
		border-radius: 6px;
		background: var(--color-page);
		overflow: hidden;
	}
	.field:hover {
		border-color: var(--color-quiet);
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
