<script lang="ts">
	// The cut checks in a row, worst first; each opens its message, the frame and the fixes.
	import type { Actions } from '$lib/bench/actions';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { announce } from '$lib/ui/announce.svelte';
	import Button from '$lib/ui/Button.svelte';
	import { checkName } from '$lib/recipe/checkStatus';
	import CheckButton from './CheckButton.svelte';

	let { bench, actions }: { bench: Bench; actions: Actions } = $props();

	const SEVERITY = { ok: 0, warning: 1, failed: 2 };
	let { preview } = $derived(bench);
	let findings = $derived(
		[...preview.findings].sort((a, b) => SEVERITY[b.status] - SEVERITY[a.status])
	);
	let pending = $derived(preview.pending);
	let unknown = $derived(pending.filter((id) => !findings.some((each) => each.id === id)));
	let failed = $derived(
		findings
			.filter((each) => each.status === 'failed' && !pending.includes(each.id))
			.map((each) => checkName(each.id))
			.join(', ')
	);

	// A check that begins to fail is announced once; the details are in the row.
	let announced = '';
	$effect(() => {
		if (failed && failed !== announced) announce(`Checks that fail: ${failed}`);
		announced = failed;
	});
</script>

<footer class="status" aria-label="Cut checks">
	{#if preview.problem}
		<span class="problem" role="alert"><span aria-hidden="true">▮</span> {preview.problem}</span>
	{:else}
		{#each findings as finding (finding.id)}
			<CheckButton {bench} {finding} analysing={pending.includes(finding.id)} />
		{:else}
			<span class="text-quiet">Checking…</span>
		{/each}
		{#if findings.length}
			{#if unknown.length}
				<span class="waiting">… {unknown.map(checkName).join(', ')}: analysing</span>
			{/if}
		{/if}
	{/if}
	{#if !preview.connected && !preview.gone}
		<span class="problem" role="alert"
			><span aria-hidden="true">▮</span> No connection to the server. Trying again…</span
		>
	{/if}
	<span class="end">
		<Button kind="bare" low onclick={() => actions.shortcuts.run()}>Shortcuts (?)</Button>
		<Button kind="bare" low href="/help">Help</Button>
	</span>
</footer>

<style>
	.status {
		display: flex;
		flex: none;
		flex-wrap: wrap;
		align-items: center;
		min-height: 28px;
		gap: 2px 4px;
		padding: 1px 12px;
		border-top: 1px solid var(--color-line);
		background: var(--color-panel);
		font-size: 12px;
		white-space: nowrap;
	}
	.waiting {
		padding: 0 7px;
		color: var(--color-quiet);
		font-style: italic;
	}
	.problem {
		overflow: hidden;
		color: var(--color-failed);
		text-overflow: ellipsis;
	}
	.end {
		margin-left: auto;
	}
</style>
