<script lang="ts">
	// A cut in the list: its two frames, its transition, its worst check, its window.
	import type { CutSummary } from '$lib/api/client';
	import { pictureAddress } from '$lib/clips/frames';
	import { checkName, STATUS_MARK } from '$lib/recipe/checkStatus';
	import Check from '$lib/ui/Check.svelte';
	import { timecode } from '$lib/ui/numbers';
	import { cutName } from './editChanges';
	import type { EditDocument } from './editDocument.svelte';

	type Props = { editDocument: EditDocument; cut: CutSummary; n: number; height: number };
	let { editDocument, cut, n, height }: Props = $props();

	const PICTURE_PX = 96;
	let outgoing = $derived(editDocument.edit.placed[n]);
	let incoming = $derived(editDocument.edit.placed[n + 1]);
	let chosen = $derived(editDocument.selection.ids.includes(cut.id));
</script>

<div class="row" data-cut={cut.id} class:chosen style:height="{height}px">
	<Check
		label="Select cut {n + 1}"
		checked={chosen}
		onchange={(_, shift) => editDocument.selection.toggle(cut.id, shift)}
	/>
	<a href="/cuts/{cut.id}">
		<span class="figures number"><span class="sr-only">Cut</span> {n + 1}</span>
		{#if outgoing && incoming}
			<span class="pair">
				<img
					src={pictureAddress(outgoing.clip, outgoing.end_shown - 1, editDocument.rate, PICTURE_PX)}
					alt=""
				/>
				<img
					src={pictureAddress(incoming.clip, incoming.first_shown, editDocument.rate, PICTURE_PX)}
					alt=""
				/>
			</span>
		{/if}
		<span class="text">
			<b>{cutName(cut)}</b>
			<span class="small text-quiet">{outgoing?.name} to {incoming?.name}</span>
		</span>
		<span class="check small">
			{#if cut.problem}
				<span class="text-failed"><span aria-hidden="true">▮</span> {cut.problem}</span>
			{:else if !cut.worst}
				<span class="text-quiet">… Checking</span>
			{:else if cut.worst.status !== 'ok'}
				<span class={cut.worst.status === 'failed' ? 'text-failed' : 'text-warning'}
					><span aria-hidden="true">{STATUS_MARK[cut.worst.status]}</span>
					{checkName(cut.worst.id)}</span
				>
				<span class="text-quiet">{cut.worst.message}</span>
			{:else}
				<span class="text-quiet"><span aria-hidden="true">✓</span> All checks are ok</span>
			{/if}
			{#each Object.entries(cut.worst?.accepted ?? {}) as [id, reason] (id)}
				<span class="text-quiet">{checkName(id)} accepted: {reason}</span>
			{/each}
		</span>
		<span class="figures window"
			><span class="text-outgoing">{cut.before}</span> |
			<span class="text-incoming">{cut.after}</span></span
		>
		<span class="figures small text-quiet"
			>{timecode(editDocument.starts[n + 1] ?? 0, editDocument.rate)}</span
		>
	</a>
</div>

<style>
	.row {
		display: flex;
		align-items: center;
		gap: 4px;
		padding: 0 12px 0 8px;
		border-bottom: 1px solid var(--color-line);
	}
	.row:hover,
	.chosen {
		background: var(--color-surround);
	}
	.row:global([data-dropping]) {
		outline: 2px solid var(--color-seam);
		outline-offset: -2px;
	}
	.chosen {
		box-shadow: inset 3px 0 var(--color-seam);
	}
	a {
		display: grid;
		flex: 1;
		grid-template-columns: 28px 146px minmax(120px, 1fr) minmax(120px, 1.6fr) 64px 84px;
		align-items: center;
		height: 100%;
		min-width: 0;
		gap: 12px;
	}
	.number {
		color: var(--color-quiet);
		text-align: right;
	}
	.pair {
		display: flex;
		gap: 2px;
		background: var(--color-seam);
	}
	.pair img {
		width: 72px;
		height: 44px;
		background: var(--color-surround);
		object-fit: cover;
	}
	.text,
	.check {
		display: flex;
		flex-direction: column;
		min-width: 0;
	}
	.text > *,
	.check > * {
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.window {
		text-align: right;
	}
	@media (max-width: 760px) {
		a {
			grid-template-columns: 24px 146px minmax(80px, 1fr) 64px;
		}
		.check,
		a > :last-child {
			display: none;
		}
	}
</style>
