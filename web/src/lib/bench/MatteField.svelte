<script lang="ts">
	// The matte of a wipe: a shape, a picture, clouds, blocks, or the brightness of a clip.
	import { api, request, type Catalogue, type Clip } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { capitalised } from '$lib/ui/numbers';
	import { toast } from '$lib/ui/toast.svelte';
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
			pictures = (await request(api.GET('/api/clips'))).filter((clip) => clip.still);
		} catch (error) {
			toast.error(error);
			return;
		}
		const first = pictures[0];
		if (first) onchange({ image: first.id });
		else toast.info('There is no picture to use. Import a greyscale PNG into any edit first.');
	}

	function setType(type: string) {
		const first = catalogue.wipe_shapes.find((each) => each.type === type);
		if (first) onchange({ type, subtype: first.subtype });
	}

	function setCells(change: Partial<Cells>) {
		if (cells) onchange({ [kind]: { ...cells, ...change } });
	}

	/** barnDoorWipe -> Barn door */
	function plain(name: string): string {
		return capitalised(
			name
				.replace(/Wipe$/, '')
				.replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`)
				.trim()
		);
	}
</script>

<div class="matte">
	<select
		class="choice"
		aria-label="Matte"
		value={kind}
		onchange={(e) => setKind(e.currentTarget.value)}
	>
		{#each KINDS as each (each)}<option value={each}
				>{each === 'image' ? 'Picture' : capitalised(each)}</option
			>{/each}
	</select>
	{#if kind === 'shape'}
		<select
			class="choice"
			aria-label="Shape"
			value={matte.type}
			onchange={(event) => setType(event.currentTarget.value)}
		>
			{#each types as each (each)}<option value={each}>{plain(each)}</option>{/each}
		</select>
		{#if subtypes.length > 1}
			<select
				class="choice"
				aria-label="Direction"
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
			<button class="plain-button" onclick={() => setCells({ seed: freshSeed() })}>New seed</button>
		</div>
	{:else if kind === 'brightness'}
		<select
			class="choice"
			aria-label="Clip of the brightness"
			value={matte.brightness}
			onchange={(event) => onchange({ brightness: event.currentTarget.value })}
		>
			<option value="outgoing">Outgoing clip</option>
			<option value="incoming">Incoming clip</option>
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
		<button class="plain-button" onclick={choosePicture}>Choose…</button>
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
