<script lang="ts">
	// A number field: type a number or a sum, drag sideways, step with arrow keys (Shift ×10, Alt ×0.1),
	// double-click to reset. `onchange` is called while dragging. What is typed is kept as it is typed.
	import { draggable } from './drag';
	import { rounded, clamped, shownNumber } from './numbers';
	import { typedNumber } from './typed';

	type Props = {
		/** Null where the things that the field is about have different values. */
		value: number | null;
		label: string;
		unit?: string;
		low?: number;
		high?: number;
		step?: number;
		scale?: number;
		rest?: number | null;
		/** The rounding of the shown number; without it five digits are shown. */
		shownTo?: number;
		/** Frames a second: the field counts whole frames, and takes times as well. */
		rate?: number;
		/** Only whole numbers are handed on. */
		whole?: boolean;
		wide?: boolean;
		/** Without it, `onchange` is called when a drag ends, not while it lasts. */
		live?: boolean;
		onchange: (value: number) => void;
	};
	let {
		value: given,
		label,
		unit = '',
		low = -Infinity,
		high = Infinity,
		step = 1,
		scale = 1,
		rest = null,
		shownTo,
		rate,
		whole,
		wide = false,
		live = true,
		onchange
	}: Props = $props();

	const PIXELS_A_STEP = 4;
	const PROBLEM_PX = 240;
	const DIFFERENT = '–';
	let typed = $state<string | null>(null);
	/** Why what is typed cannot be read. */
	let problem = $state('');
	/** Whether the field is too far right for the reason to begin where it does. */
	let isAtRight = $state(false);
	const problemId = $props.id();
	/** The value of a drag that is not handed on before it ends. */
	let dragged = $state<number | null>(null);
	let field: HTMLInputElement;

	/** Where keys and sums begin. */
	let value = $derived(given ?? clamped(rest ?? 0, low, high));
	let isWhole = $derived(whole ?? rate !== undefined);
	let shownValue = $derived((dragged ?? value) * scale);
	let text = $derived(
		typed ??
			(given === null && dragged === null
				? DIFFERENT
				: shownTo
					? String(rounded(shownValue, shownTo))
					: shownNumber(shownValue, (step * scale) / 10))
	);

	/** Hand on a value inside the range. */
	function offer(next: number) {
		const fitting = clamped(isWhole ? Math.round(next) : next, low, high);
		if (fitting !== given) onchange(fitting);
	}

	/** What keys and the pointer reach lies on tenths of a step. */
	function stepped(next: number) {
		return clamped(rounded(next, step / 10), low, high);
	}

	function forget() {
		typed = null;
		problem = '';
	}

	function onkeydown(event: KeyboardEvent) {
		const field = event.currentTarget as HTMLInputElement;
		if (event.key === 'Enter' && take()) field.blur();
		if (event.key === 'Escape') {
			forget();
			field.blur();
		}
		const direction = { ArrowUp: 1, ArrowDown: -1 }[event.key];
		if (!direction) return;
		event.preventDefault();
		const size = step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
		forget();
		offer(stepped(value + direction * size));
	}

	/** Take what is typed; return whether it could be read. Else it stays, marked. */
	function take(): boolean {
		if (typed === null || (given === null && typed === DIFFERENT)) return true;
		const read = typedNumber(typed, Number(shownNumber(value * scale, step / 1e6)), rate);
		if ('problem' in read) {
			problem = read.problem;
			isAtRight = field.getBoundingClientRect().left + PROBLEM_PX > innerWidth;
			return false;
		}
		forget();
		offer(shownValue === read.value ? value : read.value / scale);
		return true;
	}

	const drag = draggable(() => {
		const from = value;
		return {
			// A focused field is edited: the pointer selects its text.
			start: () => document.activeElement !== field,
			move: (event, right) => {
				const size = step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
				const next = stepped(from + Math.round(right / PIXELS_A_STEP) * size);
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
		forget();
		offer(rest);
	}
</script>

<span class="field" class:wide class:unread={problem !== ''}>
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
		aria-invalid={problem !== ''}
		aria-describedby={problem ? problemId : undefined}
		value={text}
		oninput={(event) => {
			typed = event.currentTarget.value;
			problem = '';
		}}
		onblur={() => take()}
		{onkeydown}
		{@attach drag}
		{ondblclick}
	/>
	{#if unit}<span class="unit small">{unit}</span>{/if}
	{#if problem}<span class="problem small" class:right={isAtRight} id={problemId} role="alert"
			>{problem}</span
		>{/if}
</span>

<style>
	.field {
		position: relative;
		display: inline-flex;
		align-items: center;
		height: 26px;
		border: 1px solid var(--color-edge);
		border-radius: 6px;
		background: var(--color-page);
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
	.unread,
	.unread:focus-within {
		border-color: var(--color-failed);
	}
	.problem {
		position: absolute;
		top: calc(100% + 4px);
		left: 0;
		z-index: 20;
		width: max-content;
		max-width: 220px;
		padding: 4px 8px;
		border: 1px solid var(--color-failed);
		border-radius: 6px;
		background: var(--color-panel);
		color: var(--color-ink);
	}
	.problem.right {
		right: 0;
		left: auto;
	}
	.unit {
		padding-right: 6px;
		color: var(--color-quiet);
		white-space: nowrap;
	}
</style>
