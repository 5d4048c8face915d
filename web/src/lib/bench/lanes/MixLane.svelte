<script lang="ts">
	// The mix: its kind, span and easing.
	import type { MixKind } from '$lib/api/client';
	import Check from '$lib/ui/Check.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted } from '$lib/ui/numbers';
	import { isInFrames, timeAt, uAt, type Time } from '$lib/recipe/times';
	import { tOf, type Axis } from '$lib/bench/strip/axis';
	import type { Bench } from '$lib/bench/bench.svelte';
	import Select from '$lib/ui/Select.svelte';
	import EasingPicker from '$lib/bench/curves/EasingPicker.svelte';
	import Lane from './Lane.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';
	import LaneCurve from '$lib/bench/curves/LaneCurve.svelte';
	import ParameterField from '$lib/bench/fields/ParameterField.svelte';
	import type { Mix } from '$lib/recipe/recipe';

	let { bench, axis }: { bench: Bench; axis: Axis } = $props();

	const OPEN_PX = 92;
	const SPAN_PX = 2 * ROW_PX;
	const WHOLE: [Time, Time] = [-1, 1];
	const MATTE_PX = 84;

	let open = $derived(bench.view.selected === 'mix');
	let mix = $derived(bench.transition.recipe.mix);
	let entry = $derived(bench.catalogue.mixes.find((each) => each.kind === mix.kind));
	let rows = $derived(
		(entry?.parameters ?? []).reduce(
			(sum, each) => sum + (each.control === 'matte' ? MATTE_PX : ROW_PX),
			0
		)
	);
	let height = $derived(
		open ? (entry?.spanned ? OPEN_PX + SPAN_PX / 2 : OPEN_PX) + rows : CLOSED_PX
	);
	let drawn = $derived(bench.preview.curves.find((each) => each.filter_id === 'mix'));
	let span = $derived(mix.span ?? WHOLE);
	let isFixed = $derived(span.some(isInFrames));
	let frames = $derived.by(() => {
		const [from, to] = span.map((time) => Math.round(tOf(axis, uAt(time, axis))));
		return { from: from ?? 0, to: to ?? 0 };
	});

	function set(label: string, next: Mix) {
		bench.transition.change(label, (recipe) => ({ ...recipe, mix: next }));
	}

	function setKind(kind: string) {
		const chosen = bench.catalogue.mixes.find((each) => each.kind === kind);
		set(
			`Mix: ${chosen?.title.toLowerCase()}`,
			chosen?.spanned
				? { kind, ...defaults(chosen), span: [-0.5, 0.5], easing: 'linear' }
				: { kind }
		);
	}

	/** The default of every parameter. */
	function defaults(chosen: MixKind): Record<string, unknown> {
		return Object.fromEntries(chosen.parameters.map((each) => [each.name, each.default]));
	}

	/** Set the span in frames from the cut: what is typed in frames stays so many frames. */
	function setSpan(label: string, from: number, to: number) {
		if (from <= to) set(label, { ...mix, span: [{ frames: from }, { frames: to }] });
	}

	/** A span of so many frames about the cut. */
	function setLength(count: number) {
		const from = -Math.floor(count / 2);
		setSpan(`Mix over ${counted(count, 'frame')}`, from, from + count);
	}

	/** Keep the frames under the duration, or go with the window. */
	function fix(on: boolean) {
		const next = span.map((time) => timeAt(uAt(time, axis), axis, on)) as [Time, Time];
		set(`Mix ${on ? 'in frames' : 'with the window'}`, { ...mix, span: next });
	}
</script>

<Lane label="Mix" {open} {height} onselect={() => bench.view.select('mix')}>
	{#snippet left()}
		<button class="name alone" aria-expanded={open} onclick={() => bench.view.select('mix')}>
			<span>Mix</span>
			<span class="small text-quiet">{entry?.title}</span>
		</button>
		{#if open && mix.easing !== undefined}
			<EasingPicker
				label="Easing"
				easing={mix.easing}
				onevery={(easing) => void bench.dials.ease(easing)}
				onchange={(easing) => set('Easing of the mix', { ...mix, easing })}
			/>
		{/if}
	{/snippet}
	{#snippet curve()}
		<LaneCurve {axis} curve={drawn} {height} {open} rest={0} name="mix" />
	{/snippet}
	{#snippet right()}
		<div class="parameter">
			<span class="label small">Kind</span>
			<Select
				label="Kind of mix"
				value={mix.kind}
				items={bench.catalogue.mixes.map(({ kind, title }) => ({ value: kind, name: title }))}
				onchange={setKind}
			/>
		</div>
		{#if open}
			{#each entry?.parameters ?? [] as parameter (parameter.name)}
				<div class="parameter">
					<span class="label small">{parameter.label}</span>
					<span class="control">
						<ParameterField
							{bench}
							{parameter}
							owner="Mix"
							value={mix[parameter.name]}
							onchange={(next) =>
								set(`Mix ${parameter.label.toLowerCase()}`, { ...mix, [parameter.name]: next })}
						/>
					</span>
				</div>
			{/each}
		{/if}
		{#if open && entry?.spanned}
			<div class="parameter">
				<span class="label small">Frames</span>
				<span class="control">
					<Check
						label="Keep the frames of the mix when the duration changes"
						checked={isFixed}
						onchange={fix}
					/>
					<span class="small text-quiet" aria-hidden="true">fixed</span>
					<NumberField
						label="Frames of the mix"
						value={frames.to - frames.from}
						low={0}
						high={2 * Math.min(axis.before, axis.after)}
						whole
						onchange={setLength}
					/>
				</span>
			</div>
			<div class="parameter">
				<span class="label small">From frame</span>
				<NumberField
					label="Mix from frame"
					value={frames.from}
					low={-bench.transition.before}
					high={frames.to}
					onchange={(frame) => setSpan(`Mix from frame ${frame}`, frame, frames.to)}
				/>
			</div>
			<div class="parameter">
				<span class="label small">To frame</span>
				<NumberField
					label="Mix to frame"
					value={frames.to}
					low={frames.from}
					high={bench.transition.after}
					onchange={(frame) => setSpan(`Mix to frame ${frame}`, frames.from, frame)}
				/>
			</div>
		{/if}
	{/snippet}
</Lane>
