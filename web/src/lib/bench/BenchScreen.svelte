<script lang="ts">
	// The bench: everything hangs on the cut, which stands in the middle of every row.
	import { onDestroy, untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import type { BookRecipe, Catalogue, Cut, PassKind } from '$lib/api/client';
	import AddPass from './AddPass.svelte';
	import { axisOf } from './axis';
	import { Bench } from './bench.svelte';
	import BenchBar from './BenchBar.svelte';
	import { clipboard, heldName } from './clipboard.svelte';
	import { copyTransition, paste, withoutStrangers } from './copying';
	import Dials from './Dials.svelte';
	import RecipeBook from '$lib/book/RecipeBook.svelte';
	import { counted } from '$lib/ui/numbers';
	import Sheet from '$lib/ui/Sheet.svelte';
	import { isTyping, KEYS } from './keys';
	import { LanesInSight } from './lanesInSight.svelte';
	import MixLane from './MixLane.svelte';
	import PassLane from './PassLane.svelte';
	import Picture from './Picture.svelte';
	import { Player } from './player.svelte';
	import type { Preview } from './preview.svelte';
	import { kindOf, newPass, type Pass, type Recipe } from './recipe';
	import SideCard from './SideCard.svelte';
	import { retimeOf } from './speed';
	import SpeedLane from './SpeedLane.svelte';
	import StatusRow from './StatusRow.svelte';
	import Strip from './Strip.svelte';
	import Transport from './Transport.svelte';

	let { cut, catalogue, preview }: { cut: Cut; catalogue: Catalogue; preview: Preview } = $props();

	const SIDE_PX = 224;
	const SIDES = ['outgoing', 'incoming'] as const;
	const bench = untrack(() => new Bench(cut, catalogue, preview));
	const player = new Player(bench);
	const inSight = new LanesInSight();
	let adding = $state(false);
	let listingKeys = $state(false);
	let choosing = $state(false);
	let rowWidth = $state(0);

	let axis = $derived(axisOf(bench.before, bench.after, Math.max(100, rowWidth - 2 * SIDE_PX)));

	onDestroy(() => {
		player.stop();
		bench.close();
	});

	async function go(cutId: string | null) {
		if (!cutId) return;
		await bench.flush();
		await goto(`/cuts/${cutId}`);
	}

	function add(kind: PassKind) {
		const pass = newPass(
			kind,
			bench.recipe.passes.map((each) => each.id)
		);
		bench.change(`add ${kind.title.toLowerCase()}`, (recipe) => ({
			...recipe,
			passes: [...recipe.passes, pass]
		}));
		bench.select(pass.id);
	}

	/** The recipe with its window, as far as the clips reach. */
	function apply(entry: BookRecipe) {
		bench.setWindow(entry.before, entry.after);
		bench.change(`recipe ${entry.name}`, () => ({ ...(entry.recipe as Recipe), name: entry.name }));
		bench.select(bench.recipe.passes[0]?.id ?? 'mix');
	}

	function without(passes: Pass[], pass: Pass): Pass[] {
		const left = passes.filter((each) => each.id !== pass.id);
		const here = left.map((each) => each.id);
		return left.map((each) => withoutStrangers(catalogue, each, here));
	}

	function remove(pass: Pass) {
		const place = bench.recipe.passes.findIndex((each) => each.id === pass.id);
		bench.change(`remove ${pass.kind.replace('_', ' ')}`, (recipe) => ({
			...recipe,
			passes: without(recipe.passes, pass)
		}));
		const next = bench.recipe.passes[Math.min(place, bench.recipe.passes.length - 1)];
		bench.select(next?.id ?? 'mix');
	}

	function move(pass: Pass, by: number) {
		const from = bench.recipe.passes.findIndex((each) => each.id === pass.id);
		const to = from + by;
		if (to < 0 || to >= bench.recipe.passes.length) return;
		bench.change(`move ${pass.kind.replace('_', ' ')}`, (recipe) => {
			const passes = recipe.passes.filter((each) => each.id !== pass.id);
			passes.splice(to, 0, pass);
			return { ...recipe, passes };
		});
	}

	function onkeydown(event: KeyboardEvent) {
		if (isTyping(event)) return;
		const entry = KEYS.find(({ matches }) => matches(event));
		if (!entry) return;
		event.preventDefault();
		const actions = {
			bench,
			player,
			go,
			addPass: () => (adding = true),
			removePass: () => {
				const pass = bench.recipe.passes.find((each) => each.id === bench.selected);
				if (pass) remove(pass);
			},
			showKeys: () => (listingKeys = true),
			openBook: () => (choosing = true)
		};
		entry.run(actions, event);
	}

	function onkeyup(event: KeyboardEvent) {
		if (event.key.toLowerCase() === 'h' && bench.held) bench.hold(false);
	}
</script>

<svelte:window {onkeydown} {onkeyup} onbeforeunload={() => void bench.flush()} />
<svelte:head><title>{bench.cut.edit_name}, cut {bench.cut.number}</title></svelte:head>

<BenchBar {bench} {go} onbook={() => (choosing = true)} />
<main class="bench" style:--side="{SIDE_PX}px">
	<div class="picture-row">
		<SideCard {bench} side="outgoing" />
		<Picture {bench} />
		<SideCard {bench} side="incoming" />
	</div>
	<Transport {bench} {player} />
	<Dials {bench} />
	<div class="rows" bind:clientWidth={rowWidth}>
		<div class="head">
			<div class="strip-row">
				<div class="label quiet small">
					<span>frames</span>
					<span class="second">change per frame</span>
				</div>
				<Strip {bench} {axis} />
				<div class="hidden-lanes">
					{#if inSight.above}
						<button class="bare-button small" onclick={() => inSight.scroll(-1)}
							>↑ {counted(inSight.above, 'lane')} above</button
						>
					{/if}
					{#if inSight.below}
						<button class="bare-button small" onclick={() => inSight.scroll(1)}
							>↓ {counted(inSight.below, 'lane')} below</button
						>
					{:else if inSight.endHidden}
						<button class="bare-button small" title="New pass (N)" onclick={() => (adding = true)}
							>+ new pass</button
						>
					{/if}
				</div>
			</div>
		</div>
		<div class="lanes" use:inSight.watch>
			<MixLane {bench} {axis} />
			{#each SIDES as side (side)}
				{#if retimeOf(bench.recipe, side).speed !== 1}<SpeedLane {bench} {axis} {side} />{/if}
			{/each}
			{#each bench.recipe.passes as pass, n (pass.id)}
				{@const kind = kindOf(catalogue, pass)}
				{#if kind}
					<PassLane
						{bench}
						{axis}
						{pass}
						{kind}
						place={n + 1}
						onremove={() => remove(pass)}
						onmove={(by) => move(pass, by)}
					/>
				{/if}
			{:else}
				<p class="empty">
					No passes yet: the clips meet in {bench.recipe.mix.kind === 'cut'
						? 'a hard cut'
						: 'the mix alone'}. Add a blur or a roll to see it rise and fall across the cut.
				</p>
			{/each}
			<div class="add">
				<button class="plain-button" title="New pass (N)" onclick={() => (adding = true)}
					>+ Add a pass</button
				>
				{#if clipboard.held && clipboard.held.kind !== 'curve'}
					<button class="plain-button" title="Ctrl V" onclick={() => paste(bench)}
						>Paste {heldName(clipboard.held)}</button
					>
				{/if}
				<button class="plain-button" title="Ctrl Shift C" onclick={() => copyTransition(bench)}
					>Copy the transition</button
				>
			</div>
		</div>
		<div class="seam" aria-hidden="true"></div>
	</div>
	<StatusRow {bench} onkeys={() => (listingKeys = true)} />
</main>

<RecipeBook
	bind:open={choosing}
	cutId={bench.cut.id}
	version={[
		bench.cut.version,
		bench.cut.outgoing.out_frame,
		bench.cut.incoming.in_frame,
		JSON.stringify(bench.framing)
	].join()}
	current={bench.recipe}
	onapply={apply}
/>
<AddPass bind:open={adding} {catalogue} onadd={add} />
<Sheet bind:open={listingKeys} title="Keys" size="sm">
	<table class="w-full text-[13px]">
		<tbody>
			{#each KEYS as { shown, does } (shown)}
				<tr
					><th class="figures py-1 pr-4 text-left font-normal whitespace-nowrap">{shown}</th><td
						>{does}</td
					></tr
				>
			{/each}
			<tr
				><th class="figures py-1 pr-4 text-left font-normal">↑ ↓ in a field</th><td
					>step; Shift ×10, Alt ×0.1; double click: rest</td
				></tr
			>
		</tbody>
	</table>
</Sheet>

<style>
	.bench {
		display: flex;
		flex: 1;
		flex-direction: column;
		min-height: 0;
	}
	.picture-row {
		display: grid;
		grid-template-rows: minmax(0, 1fr);
		grid-template-columns: auto 1fr auto;
		height: clamp(290px, 41vh, 760px);
		flex: none;
		overflow: hidden;
		background: var(--color-surround);
	}
	.rows {
		position: relative;
		display: flex;
		flex: 1;
		flex-direction: column;
		min-height: 0;
		background: var(--color-page);
	}
	.head {
		flex: none;
		border-bottom: 1px solid var(--color-line);
	}
	.strip-row {
		display: grid;
		grid-template-columns: var(--side) 1fr var(--side);
		padding-top: 4px;
	}
	.label {
		display: flex;
		flex-direction: column;
		justify-content: space-between;
		padding: 12px 10px 5px 28px;
	}
	.hidden-lanes {
		display: flex;
		flex-direction: column;
		align-items: flex-start;
		justify-content: flex-end;
		padding: 0 6px 2px;
	}
	.lanes {
		flex: 1;
		min-height: 0;
		overflow-x: hidden;
		overflow-y: auto;
		/* The cut must stand in the middle whether or not the lanes scroll. */
		scrollbar-width: none;
	}
	.seam {
		position: absolute;
		top: 0;
		bottom: 0;
		left: calc(50% - 1px);
		width: 2px;
		background: var(--color-seam);
		pointer-events: none;
	}
	.quiet {
		color: var(--color-quiet);
	}
	.empty {
		padding: 14px 28px;
		color: var(--color-quiet);
		text-align: center;
	}
	.add {
		display: flex;
		gap: 8px;
		padding: 8px 28px 12px;
	}
</style>
