<script lang="ts">
	// The speed ramp of a clip: how fast it runs at the cut, and how many frames that spends.
	import { Popover } from 'flowbite-svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted, rounded } from '$lib/ui/numbers';
	import type { Bench, ClipSide } from './bench.svelte';
	import EasingPicker from './EasingPicker.svelte';
	import { mainValue, swellTo, withMainValue, type Envelope, type Swell } from './recipe';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	const SAMPLINGS = ['nearest', 'blend', 'flow'];
	type Retime = { speed: Envelope; sampling: string };
	let retimes = $derived((bench.recipe.retime ?? {}) as Partial<Record<ClipSide, Partial<Retime>>>);
	let speed = $derived<Envelope>(retimes[side]?.speed ?? 1);
	let sampling = $derived(retimes[side]?.sampling ?? 'nearest');
	let peak = $derived(Number(mainValue(speed)));
	let spent = $derived(bench.preview.spent[side]);
	let summary = $derived(
		speed === 1
			? 'as it runs'
			: `${rounded(peak * 100, 1)} % · ${spent < 0 ? '−' : '+'}${rounded(Math.abs(spent), 0.1)}`
	);
	let swell = $derived(
		typeof speed === 'object' && !Array.isArray(speed) ? (speed as Swell) : null
	);
	let eased = $derived<'rise' | 'fall'>(side === 'outgoing' ? 'rise' : 'fall');

	function set(change: Partial<Retime>, label: string) {
		const next = { speed, sampling, ...change };
		bench.change(`speed of ${side} ${label}`, (recipe) => ({
			...recipe,
			retime: { ...retimes, [side]: next }
		}));
	}

	function setPeak(value: number) {
		const next = value === 1 ? 1 : swell ? withMainValue(speed, value) : swellTo(value);
		set({ speed: next }, `${rounded(peak * 100, 1)} % → ${rounded(value * 100, 1)} %`);
	}
</script>

<button
	class="plain-button"
	id="speed-{side}"
	aria-label="Speed of the {side} clip: {summary}"
	title={speed === 1
		? 'As it runs: set a speed for this side of the window'
		: `Spends ${counted(rounded(spent, 0.1), 'frame')} more than the window has`}>{summary}</button
>
<Popover
	triggeredBy="#speed-{side}"
	trigger="click"
	placement={side === 'outgoing' ? 'right' : 'left'}
	arrow={false}
	class="z-40 border border-line bg-panel! text-ink!"
>
	<div class="fields" role="group" aria-label="Speed of the {side} clip">
		<div class="line">
			<span class="quiet">at the cut</span>
			<NumberField
				label="Speed of the {side} clip at the cut"
				value={peak}
				unit="%"
				scale={100}
				step={0.05}
				low={0}
				high={20}
				rest={1}
				onchange={setPeak}
			/>
		</div>
		{#if swell}
			<EasingPicker
				id="speed-{side}-{eased}"
				label={eased}
				easing={swell[eased]}
				catalogue={bench.catalogue}
				onchange={(easing) => set({ speed: { ...swell, [eased]: easing } }, eased)}
			/>
		{/if}
		<div class="line">
			<span class="quiet">between frames</span>
			<select
				class="choice"
				aria-label="What is shown between frames of the {side} clip"
				value={sampling}
				onchange={(event) =>
					set({ sampling: event.currentTarget.value }, event.currentTarget.value)}
			>
				{#each SAMPLINGS as each (each)}<option value={each}>{each}</option>{/each}
			</select>
		</div>
		<p class="small quiet">
			{#if speed === 1}
				Nothing spent: the clip runs as it is.
			{:else}
				{rounded(Math.abs(spent), 0.1)} frames {spent < 0 ? 'fewer' : 'more'} than the window has.
			{/if}
		</p>
	</div>
</Popover>

<style>
	.fields {
		display: flex;
		flex-direction: column;
		width: 210px;
		padding: 2px;
		gap: 6px;
	}
	.line {
		display: flex;
		align-items: center;
		justify-content: space-between;
	}
	.quiet {
		color: var(--color-quiet);
	}
	.plain-button {
		height: 22px;
	}
</style>
