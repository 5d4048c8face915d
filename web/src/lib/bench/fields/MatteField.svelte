<script lang="ts">
	// The matte of a wipe: a shape, a picture, clouds, blocks, or the brightness of a clip.
	import Button from '$lib/ui/Button.svelte';
	import Select from '$lib/ui/Select.svelte';
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import { api, request, type Catalogue } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { capitalised } from '$lib/ui/numbers';
	import { toast } from '$lib/ui/toast.svelte';
	import { freshSeed } from '$lib/recipe/recipe';

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
	const client = useQueryClient();
	const STILLS = {
		queryKey: ['stills'],
		queryFn: () => request(api.GET('/api/clips', { params: { query: { still: true } } }))
	};
	const stills = createQuery(() => ({ ...STILLS, enabled: kind === 'image' }));
	let pictures = $derived(stills.data ?? []);

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
			const [first] = await client.fetchQuery(STILLS);
			if (first) onchange({ image: first.id });
			else toast.info('There is no picture to use. Import a greyscale PNG into any edit first.');
		} catch (error) {
			toast.error(error);
		}
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
	<Select
		wide
		label="Matte"
		value={kind}
		items={KINDS.map((each) => ({
			value: each,
			name: each === 'image' ? 'Picture' : capitalised(each)
		}))}
		onchange={(next) => void setKind(next)}
	/>
	{#if kind === 'shape'}
		<Select
			wide
			label="Shape"
			value={matte.type ?? ''}
			items={types.map((each) => ({ value: each, name: plain(each) }))}
			onchange={setType}
		/>
		{#if subtypes.length > 1}
			<Select
				wide
				label="Direction"
				value={matte.subtype ?? ''}
				items={subtypes.map(({ subtype }) => ({ value: subtype, name: plain(subtype) }))}
				onchange={(subtype) => onchange({ type: matte.type, subtype })}
			/>
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
			<Button low onclick={() => setCells({ seed: freshSeed() })}>New seed</Button>
		</div>
	{:else if kind === 'brightness'}
		<Select
			wide
			label="Clip of the brightness"
			value={matte.brightness ?? 'outgoing'}
			items={[
				{ value: 'outgoing', name: 'Outgoing clip' },
				{ value: 'incoming', name: 'Incoming clip' }
			]}
			onchange={(brightness) => onchange({ brightness })}
		/>
	{:else if pictures.length}
		<Select
			wide
			label="Picture"
			value={matte.image ?? ''}
			items={pictures.map(({ id, name }) => ({ value: id, name }))}
			onchange={(image) => onchange({ image })}
		/>
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
</style>
