<script lang="ts">
	// What a wipe runs along: a shape, a picture, clouds, blocks, or the brightness of a clip.
	import { api, need, type Catalogue, type Clip } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { notices } from '$lib/ui/notices.svelte';
	import { freshSeed } from './recipe';

	type Cells = { size: number; seed: number };
	export type Matte = {
		type?: string;
		subtype?: string;
		image?: string;
		clouds?: Cells;
		blocks?: Cells;
		brightness?: string;
	};
	type Props = { matte: Matte; catalogue: Catalogue; onchange: (matte: Matte) => void };
	let { matte, catalogue, onchange }: Props = $props();

	const KINDS = ['shape', 'clouds', 'blocks', 'brightness', 'image'] as const;
	let kind = $derived(KINDS.find((each) => each in matte) ?? 'shape');
	let cells = $derived(matte.clouds ?? matte.blocks);
	let types = $derived([...new Set(catalogue.wipe_shapes.map((each) => each.type))]);
	let subtypes = $derived(catalogue.wipe_shapes.filter((each) => each.type === matte.type));
	let pictures = $state.raw<Clip[]>([]);

	async function setKind(next: string) {
		const fresh = { size: 0.25, seed: freshSeed() };
		if (next === 'clouds') onchange({ clouds: fresh });
		else if (next === 'blocks') onchange({ blocks: { ...fresh, size: 0.1 } });
		else if (next === 'brightness') onchange({ brightness: 'outgoing' });
		else if (next === 'image') await choosePicture();
		else onchange({ type: 'barWipe', subtype: 'leftToRight' });
	}

	async function choosePicture() {
		try {
			pictures = (await need(api.GET('/api/clips'))).filter((clip) => clip.still);
		} catch (error) {
			notices.wrong(error);
			return;
		}
		const first = pictures[0];
		if (first) onchange({ image: first.id });
		else notices.tell('There is no picture yet: import a greyscale PNG to any edit first.');
	}

	function setType(type: string) {
		const first = catalogue.wipe_shapes.find((each) => each.type === type);
		if (first) onchange({ type, subtype: first.subtype });
	}

	function setCells(change: Partial<Cells>) {
		if (cells) onchange({ [kind]: { ...cells, ...change } });
	}

	/** barnDoorWipe -> barn door */
	function plain(name: string): string {
		return name
			.replace(/Wipe$/, '')
			.replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`)
			.trim();
	}
</script>

<div class="matte">
	<select
		class="choice"
		aria-label="Matte"
		value={kind}
		onchange={(e) => setKind(e.currentTarget.value)}
	>
		{#each KINDS as each (each)}<option value={each}>{each === 'image' ? 'picture' : each}</option
			>{/each}
	</select>
	{#if kind === 'shape'}
		<select
			class="choice"
			aria-label="Shape of the wipe"
			value={matte.type}
			onchange={(event) => setType(event.currentTarget.value)}
		>
			{#each types as each (each)}<option value={each}>{plain(each)}</option>{/each}
		</select>
		{#if subtypes.length > 1}
			<select
				class="choice"
				aria-label="Way of the wipe"
				value={matte.subtype}
				onchange={(event) => onchange({ type: matte.type, subtype: event.currentTarget.value })}
			>
				{#each subtypes as each (each.subtype)}
					<option value={each.subtype}>{plain(each.subtype)}</option>
				{/each}
			</select>
		{/if}
	{:else if cells}
		<div class="cells">
			<NumberField
				label="Size of the {kind}"
				value={cells.size}
				unit="% h"
				scale={100}
				low={0.01}
				high={5}
				step={0.01}
				onchange={(size) => setCells({ size })}
			/>
			<button class="plain-button" onclick={() => setCells({ seed: freshSeed() })}>re-roll</button>
		</div>
	{:else if kind === 'brightness'}
		<select
			class="choice"
			aria-label="Whose brightness"
			value={matte.brightness}
			onchange={(event) => onchange({ brightness: event.currentTarget.value })}
		>
			<option value="outgoing">of outgoing</option>
			<option value="incoming">of incoming</option>
		</select>
	{:else if pictures.length}
		<select
			class="choice"
			aria-label="Picture"
			value={matte.image}
			onchange={(event) => onchange({ image: event.currentTarget.value })}
		>
			{#each pictures as clip (clip.id)}<option value={clip.id}>{clip.name}</option>{/each}
		</select>
	{:else}
		<button class="plain-button" onclick={choosePicture}>choose…</button>
	{/if}
</div>

<style>
	.matte,
	.cells {
		display: flex;
		min-width: 0;
		gap: 4px;
	}
	.matte {
		flex-direction: column;
		align-items: stretch;
		width: 130px;
		padding: 2px 0;
	}
	.matte .choice {
		width: 100%;
	}
</style>
