<script lang="ts">
	// The cuts of an edit, one row each; only those in sight are drawn.
	import { VirtualList } from 'flowbite-svelte';
	import type { CutSummary } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import { counted } from '$lib/ui/numbers';
	import Popover from '$lib/ui/Popover.svelte';
	import Select from '$lib/ui/Select.svelte';
	import CutDials from './CutDials.svelte';
	import CutRow from './CutRow.svelte';
	import { cutName } from './editChanges';
	import type { EditDocument } from './editDocument.svelte';
	import { copyFrom, type Alternate } from './editSteps';

	type Props = { editDocument: EditDocument; alternate: Alternate; onapply: () => void };
	let { editDocument, alternate = $bindable(), onapply }: Props = $props();

	const ROW_PX = 60;
	const ALTERNATES: { value: Alternate; name: string }[] = [
		{ value: '', name: 'Unchanged' },
		{ value: 'horizontal', name: 'Flipped horizontally' },
		{ value: 'vertical', name: 'Flipped vertically' },
		{ value: '90', name: 'Turned 90° left' },
		{ value: '270', name: 'Turned 90° right' },
		{ value: '180', name: 'Turned 180°' }
	];
	const LEAST_ROWS = 4;
	let room = $state(400);
	let copying = $state(false);
	let cuts = $derived(editDocument.edit.cuts);
	let sources = $derived(cuts.filter((cut) => !cut.problem && cut.filter_count));

	function copy(cut: CutSummary) {
		copying = false;
		void copyFrom(editDocument, cut, alternate);
	}
</script>

<div class="head">
	<h2 class="text-[15px] font-semibold">{counted(cuts.length, 'cut')}</h2>
	{#if cuts.length}
		<Button onclick={() => editDocument.selection.toggleAll()}
			>{editDocument.selection.ids.length === cuts.length ? 'Select none' : 'Select all'}</Button
		>
		{#if editDocument.selection.ids.length}
			<Button kind="strong" onclick={onapply}
				>Apply recipe to {counted(editDocument.selection.ids.length, 'cut')}…</Button
			>
			<Popover label="Copy from another cut" bind:open={copying}>
				{#snippet button(attributes)}<Button {...attributes}>Copy from another cut…</Button
					>{/snippet}
				<ul class="sources">
					{#each sources as cut (cut.id)}
						<li>
							<Button kind="bare" class="w-full justify-start gap-2" onclick={() => copy(cut)}
								><span class="figures">{cuts.indexOf(cut) + 1}</span>
								<span class="text-ink">{cutName(cut)}</span>
								<span class="figures small">{cut.before} | {cut.after}</span></Button
							>
						</li>
					{:else}
						<li class="text-quiet">No cut has a transition to copy yet.</li>
					{/each}
				</ul>
			</Popover>
			<span class="small flex items-center gap-1 text-quiet"
				>Move
				<Button
					aria-label="Move the selected cuts one frame earlier"
					tip="One frame earlier"
					onclick={() => editDocument.shiftChosen(-1)}>‹</Button
				>
				<Button
					aria-label="Move the selected cuts one frame later"
					tip="One frame later"
					onclick={() => editDocument.shiftChosen(1)}>›</Button
				></span
			>
			<span class="small flex items-center gap-2 text-quiet"
				>Alternate cuts
				<Select
					label="Alternate cuts"
					value={alternate}
					items={ALTERNATES}
					onchange={(next) => (alternate = next)}
				/></span
			>
		{:else}
			<span class="small text-quiet">Select cuts to apply one recipe to all of them</span>
		{/if}
	{/if}
</div>
{#if editDocument.selection.ids.length}<CutDials {editDocument} />{/if}
{#if cuts.length}
	<div
		class="rows"
		style:min-height="{Math.min(cuts.length, LEAST_ROWS) * ROW_PX + 2}px"
		style:max-height="{cuts.length * ROW_PX + 2}px"
		bind:clientHeight={room}
	>
		<VirtualList
			items={cuts}
			minItemHeight={ROW_PX}
			overscan={2}
			height={room}
			ariaLabel="Cuts"
			class="rounded-md border border-line bg-panel"
		>
			{#snippet children(cut: unknown, n: number)}
				<CutRow {editDocument} cut={cut as CutSummary} {n} height={ROW_PX} />
			{/snippet}
		</VirtualList>
	</div>
{:else}
	<p class="text-quiet">This edit has no cuts. Add a second clip below.</p>
{/if}

<style>
	.head {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		min-height: 28px;
		gap: 4px 12px;
		margin-top: 8px;
	}
	.rows {
		flex: 1 1 0;
	}
	.sources {
		width: 320px;
		max-height: 300px;
	}
</style>
