<script lang="ts">
	// The dials over the selected cuts: strength, duration, snap, shutter, flips and turns.
	import { untrack } from 'svelte';
	import { DURATION, SHUTTER, SNAP, STRENGTH, type DialField } from '$lib/recipe/dialFields';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted } from '$lib/ui/numbers';
	import Switch from '$lib/ui/Switch.svelte';
	import { CutDials } from './cutDials.svelte';
	import type { EditDocument } from './editDocument.svelte';

	let { editDocument }: { editDocument: EditDocument } = $props();

	const LONGEST = 2000;
	const dials = untrack(() => new CutDials(editDocument));
	let fields = $derived<DialField[]>([
		{
			...STRENGTH,
			value: dials.strength,
			onchange: (strength: number) => void dials.dial({ strength })
		},
		{
			...DURATION,
			value: dials.duration,
			rate: editDocument.rate,
			high: LONGEST,
			onchange: (duration: number) => void dials.dial({ duration })
		},
		{
			...SNAP,
			value: dials.snap,
			onchange: (snap: number) => void dials.dial({ snap })
		},
		{
			...SHUTTER,
			value: dials.shutter,
			onchange: (shutter: number) => void dials.dial({ shutter })
		}
	]);
</script>

<div class="dials" role="group" aria-label="The selected cuts">
	{#each fields as { label, ...field } (label)}
		<span class="dial"
			><span class="small text-quiet">{label}</span>
			<NumberField {label} {...field} live={false} /></span
		>
	{/each}
	<Button onclick={() => dials.dial({ flip: 'horizontal' })}>Flip horizontally</Button>
	<Button onclick={() => dials.dial({ flip: 'vertical' })}>Flip vertically</Button>
	<Button aria-label="Turn 90° counter-clockwise" onclick={() => dials.dial({ turn: 90 })}
		>↺ 90°</Button
	>
	<Button aria-label="Turn 90° clockwise" onclick={() => dials.dial({ turn: 270 })}>↻ 90°</Button>
	{#if dials.lacking.length}
		<Button
			tip="Where spare frames are missing, the first or last frame is shown in their place"
			onclick={() => dials.holdFrames()}
			>Hold end frames of {counted(dials.lacking.length, 'cut')}</Button
		>
	{/if}
	<Switch
		label="Only every second of the selected cuts"
		on={dials.everySecond}
		tip="The dials, flips and turns change the second, fourth, … of the selected cuts"
		onchange={(on) => (dials.everySecond = on)}>Every second cut</Switch
	>
</div>

<style>
	.dials {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 4px 12px;
	}
	.dial {
		display: inline-flex;
		align-items: center;
		gap: 6px;
	}
</style>
