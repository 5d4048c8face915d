<script lang="ts">
	// The accent: its waveform under the frames, its times, level and character.
	import { onDestroy } from 'svelte';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, request, type Clip } from '$lib/api/client';
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { Axis } from '$lib/bench/strip/axis';
	import { tOf, uOf } from '$lib/bench/strip/axis';
	import {
		accentOf,
		countedAccent,
		FARTHEST_U,
		GAIN_DB,
		isAccentInFrames,
		placedAccent,
		statedAccent,
		withTime,
		type Accent
	} from '$lib/recipe/accent';
	import { freshSeed, moversFor } from '$lib/recipe/recipe';
	import ImportSound from '$lib/clips/ImportSound.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Check from '$lib/ui/Check.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Select from '$lib/ui/Select.svelte';
	import AccentCurve from '$lib/bench/curves/AccentCurve.svelte';
	import { AccentSound } from '$lib/sound/accentSound.svelte';
	import Lane from './Lane.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';

	let { bench, axis }: { bench: Bench; axis: Axis } = $props();

	const ROWS = 9;
	const COLUMNS = 400;
	const sound = new AccentSound();
	let { transition, view } = $derived(bench);
	let open = $derived(view.selected === 'accent');
	let accent = $derived(placedAccent(accentOf(transition.recipe) as Accent, axis));
	let height = $derived(open ? ROWS * ROW_PX + 18 : CLOSED_PX);
	let own = $derived(typeof accent.sound === 'object' ? accent.sound.clip : '');
	// A sound that was imported is listed as soon as it is the accent's.
	const listed = createQuery(() => ({
		queryKey: ['sounds', own],
		queryFn: () => request(api.GET('/api/clips', { params: { query: { sound: true } } })),
		enabled: open || own !== ''
	}));
	let clips = $derived(listed.data ?? []);
	let movers = $derived(
		moversFor(bench.catalogue, transition.recipe, {
			id: '',
			kind: '',
			side: 'across',
			enabled: true
		})
	);
	let title = $derived(
		bench.catalogue.sounds.find(({ name }) => name === accent.sound)?.title ??
			clips.find(({ id }) => id === own)?.name ??
			'Sound of your own'
	);
	let sounds = $derived([
		...bench.catalogue.sounds.map(({ name, title }) => ({ value: name, name: title })),
		...clips
			.filter((each) => each.is_sound || each.id === own)
			.map(({ id, name }) => ({ value: `clip:${id}`, name }))
	]);
	/** Its loudness against the rest, as the check says it. */
	let compared = $derived(
		bench.preview.findings.find((each) => each.id === 'loudness')?.detail ?? ''
	);

	$effect(() => {
		const { recipe, before, after, cut } = transition;
		sound.follow(recipe, before, after, cut.rate, COLUMNS);
	});
	onDestroy(() => sound.close());

	function set(label: string, next: Accent | null) {
		transition.change(label, (recipe) => ({
			...recipe,
			accent: next && statedAccent(recipe, next, axis)
		}));
	}

	/** Keep the times in frames under the duration, or go with the window. */
	function fix(on: boolean) {
		transition.change(`Accent ${on ? 'in frames' : 'with the window'}`, (recipe) => ({
			...recipe,
			accent: countedAccent(accentOf(recipe) as Accent, axis, on)
		}));
	}

	function setSound(chosen: string) {
		const next = chosen.startsWith('clip:') ? { clip: chosen.slice('clip:'.length) } : chosen;
		const name = sounds.find(({ value }) => value === chosen)?.name ?? chosen;
		set(`Accent: ${name.toLowerCase()}`, { ...accent, sound: next });
	}

	function useSound(clip: Clip) {
		set(`Accent: ${clip.name}`, { ...accent, sound: { clip: clip.id } });
	}

	const TIMES = ['start', 'peak', 'end'] as const;
	const NAMES = { start: 'Start', peak: 'Peak', end: 'End' };
	const FADES = [
		{ field: 'fade_in', name: 'Fade in' },
		{ field: 'fade_out', name: 'Fade out' }
	] as const;
	const CHARACTER = [
		{ field: 'brightness', name: 'Brightness' },
		{ field: 'body', name: 'Body' }
	] as const;
</script>

{#snippet share(field: 'fade_in' | 'fade_out' | 'brightness' | 'body', name: string)}
	<NumberField
		label="{name} of the accent"
		value={accent[field]}
		unit="%"
		scale={100}
		low={0}
		high={1}
		step={0.05}
		onchange={(next) => set(`${name} of the accent`, { ...accent, [field]: next })}
	/>
{/snippet}

<Lane label="Accent" {open} {height} onselect={() => view.select('accent')}>
	{#snippet left()}
		<button class="name alone" aria-expanded={open} onclick={() => view.select('accent')}>
			<span>Accent</span>
			<span class="small text-quiet">{title}</span>
		</button>
		{#if open}
			<div class="row">
				<span class="small">Sound</span>
				<Select
					wide
					label="Sound of the accent"
					value={own ? `clip:${own}` : (accent.sound as string)}
					items={sounds}
					onchange={setSound}
				/>
			</div>
			<div class="row">
				<span class="small">Follow</span>
				<Select
					wide
					label="Movement that the accent follows"
					value={accent.follow ?? ''}
					items={[
						{ value: '', name: 'No movement' },
						...movers.map(({ id, name }) => ({ value: id, name }))
					]}
					onchange={(id) => set('Accent follows', { ...accent, follow: id || null })}
				/>
			</div>
			<div class="row">
				<Button
					low
					tip="Hear the accent alone, as long as it is held"
					pressed={sound.playing}
					disabled={!sound.waveform?.lengthS}
					onpointerdown={() => void sound.play()}
					onpointerup={() => sound.stop()}
					onpointerleave={() => sound.stop()}
					onkeydown={(event) => {
						if ([' ', 'Enter'].includes(event.key) && !event.repeat) void sound.play();
					}}
					onkeyup={() => sound.stop()}>Hear alone</Button
				>
				<Check
					label="Stretch to its times"
					checked={accent.stretch}
					onchange={(stretch) => set('Stretch accent', { ...accent, stretch })}
				/>
				<span class="small stretch" aria-hidden="true">Stretch</span>
			</div>
			{#if !own}
				{#each CHARACTER as { field, name } (field)}
					<div class="row">
						<span class="small">{name}</span>
						{@render share(field, name)}
					</div>
				{/each}
			{/if}
			<div class="row">
				<ImportSound low label="Import sound…" field="Import a sound" onimport={useSound} />
				{#if !own}
					<Button
						kind="bare"
						low
						onclick={() => set('New seed of the accent', { ...accent, seed: freshSeed() })}
						>New seed</Button
					>
				{/if}
			</div>
		{/if}
	{/snippet}
	{#snippet curve()}
		<AccentCurve
			{axis}
			{accent}
			{height}
			{open}
			rate={transition.rate}
			waveform={sound.waveform}
			onchange={(label, next) => set(label, next)}
		/>
		{#if open && compared}<p class="compared small">The accent {compared}</p>{/if}
		{#if sound.problem}<p class="problem small text-failed">{sound.problem}</p>{/if}
	{/snippet}
	{#snippet right()}
		<div class="parameter">
			<span class="label small">Level</span>
			<NumberField
				label="Level of the accent"
				value={accent.gain_db}
				unit="dB"
				low={GAIN_DB.low}
				high={GAIN_DB.high}
				step={0.5}
				rest={-19}
				onchange={(gain_db) => set('Level of the accent', { ...accent, gain_db })}
			/>
		</div>
		{#if open}
			{#each TIMES as which (which)}
				<div class="parameter">
					<span class="label small">{NAMES[which]}</span>
					<NumberField
						label="{NAMES[which]} of the accent, frames from the cut"
						value={Number(tOf(axis, accent[which]).toFixed(2))}
						unit="frames"
						low={-FARTHEST_U * axis.before}
						high={FARTHEST_U * axis.after}
						step={0.5}
						onchange={(t) =>
							set(`${NAMES[which]} of the accent`, withTime(accent, which, uOf(axis, t)))}
					/>
				</div>
			{/each}
			<div class="parameter">
				<span class="label small">Fixed frames</span>
				<Check
					label="Keep the times of the accent in frames when the duration changes"
					checked={isAccentInFrames(transition.recipe)}
					onchange={fix}
				/>
			</div>
			{#each FADES as { field, name } (field)}
				<div class="parameter">
					<span class="label small">{name}</span>
					{@render share(field, name)}
				</div>
			{/each}
			<div class="parameter">
				<span></span>
				<Button low kind="bare" onclick={() => set('Remove accent', null)}>Remove</Button>
			</div>
		{/if}
	{/snippet}
</Lane>

<style>
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: var(--row, 28px);
		padding-left: 12px;
	}
	.row > span {
		flex: none;
		min-width: 54px;
		white-space: nowrap;
		color: var(--color-quiet);
	}
	.row > .stretch {
		min-width: 0;
	}
	.problem {
		position: absolute;
		bottom: 2px;
		left: calc(var(--side) + 8px);
	}
	.compared {
		position: absolute;
		top: 4px;
		left: calc(var(--side) + 8px);
		color: var(--color-quiet);
		pointer-events: none;
	}
</style>
