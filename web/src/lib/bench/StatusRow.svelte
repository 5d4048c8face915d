<script lang="ts">
	// The cut checks in a row, worst first; a click shows the message, the frame and the fixes.
	import type { Bench } from './bench.svelte';
	import type { Finding, Fix } from './preview.svelte';
	import { checkName, STATUS_MARK } from '$lib/edits/cutStatus';
	import { patched } from './recipe';

	let { bench, onshortcuts }: { bench: Bench; onshortcuts: () => void } = $props();

	const SEVERITY = { ok: 0, warning: 1, failed: 2 };
	const MARK = STATUS_MARK;
	const ANALYSING = 'analysing';
	let shownId = $state('');

	let findings = $derived(
		[...bench.preview.findings].sort((a, b) => SEVERITY[b.status] - SEVERITY[a.status])
	);
	let pending = $derived(bench.preview.pending);
	let unknown = $derived(pending.filter((id) => !findings.some((each) => each.id === id)));
	let shown = $derived(findings.find((each) => each.id === shownId));

	function valueText({ value, unit }: Finding): string {
		const units: Record<string, string> = { deg: '°', '%': ' %' };
		return `${Number(value.toFixed(1))}${units[unit] ?? ` ${unit}`}`;
	}

	function fixesOf(finding: Finding): Fix[] {
		const all = finding.fix ? [finding.fix, ...finding.more_fixes] : [];
		return all.filter((each) => each.patch.length || each.move_cut);
	}

	function apply(finding: Finding, fix: Fix) {
		shownId = '';
		if (fix.move_cut) {
			void bench.moveCut(fix.move_cut);
			return;
		}
		bench.change(`Fix ${checkName(finding.id).toLowerCase()}: ${fix.label}`, (recipe) =>
			patched(recipe, fix.patch)
		);
	}
</script>

<svelte:window onkeydown={(event) => event.key === 'Escape' && (shownId = '')} />

<footer class="status">
	{#if shown}
		{@const finding = shown}
		<div class="details {finding.status}" role="dialog" aria-label="Check: {checkName(finding.id)}">
			<p>
				<b>{checkName(finding.id)}</b>
				<span class="figures quiet">{valueText(finding)}</span>
				{finding.message}
			</p>
			<div class="actions">
				{#each fixesOf(finding) as fix, n (fix.label)}
					<button
						class="plain-button"
						class:strong={n === 0 && finding.status !== 'ok'}
						onclick={() => apply(finding, fix)}>Fix: {fix.label}</button
					>
				{/each}
				{#if finding.frame !== null}
					<button class="plain-button" onclick={() => bench.show(finding.frame ?? 0)}
						>Show frame {finding.frame > 0 ? '+' : ''}{finding.frame}</button
					>
				{/if}
				<button class="bare-button" aria-label="Close" onclick={() => (shownId = '')}>✕</button>
			</div>
		</div>
	{/if}
	{#if bench.preview.problem}
		<span class="problem"><span aria-hidden="true">▮</span> {bench.preview.problem}</span>
	{:else}
		{#each findings as finding (finding.id)}
			<button
				class="check {finding.status}"
				class:pending={pending.includes(finding.id)}
				aria-expanded={shownId === finding.id}
				aria-label="{checkName(finding.id)}: {pending.includes(finding.id)
					? ANALYSING
					: finding.status}"
				title={finding.message}
				onclick={() => (shownId = shownId === finding.id ? '' : finding.id)}
			>
				<span aria-hidden="true">{pending.includes(finding.id) ? '…' : MARK[finding.status]}</span>
				{checkName(finding.id)}{#if pending.includes(finding.id)}: {ANALYSING}{:else if finding.status !== 'ok'}<span
						class="figures">{valueText(finding)}</span
					>{/if}
			</button>
		{:else}
			<span class="quiet">Checking…</span>
		{/each}
		{#if findings.length}
			{#each unknown as id (id)}
				<span class="check">… {checkName(id)}: {ANALYSING}</span>
			{/each}
		{/if}
	{/if}
	{#if !bench.preview.connected}
		<span class="problem"
			><span aria-hidden="true">▮</span> No connection to the server. Trying again…</span
		>
	{/if}
	<span class="space"></span>
	<button class="bare-button" onclick={onshortcuts}>Shortcuts (?)</button>
</footer>

<style>
	.status {
		position: relative;
		display: flex;
		flex: none;
		align-items: center;
		height: 28px;
		gap: 4px;
		padding: 0 12px;
		border-top: 1px solid var(--color-line);
		background: var(--color-panel);
		font-size: 12px;
		white-space: nowrap;
	}
	.check {
		display: inline-flex;
		align-items: center;
		height: 22px;
		gap: 5px;
		padding: 0 7px;
		border: 1px solid transparent;
		border-radius: 6px;
		color: var(--color-quiet);
	}
	.check:hover,
	.check[aria-expanded='true'] {
		border-color: var(--color-line);
		background: var(--color-surround);
	}
	.check.pending {
		font-style: italic;
	}
	.check.warning,
	.details.warning b {
		color: var(--color-warning);
	}
	.check.failed,
	.details.failed b,
	.problem {
		color: var(--color-failed);
	}
	.problem {
		overflow: hidden;
		text-overflow: ellipsis;
	}
	.details {
		position: absolute;
		bottom: 32px;
		left: 12px;
		z-index: 20;
		width: min(560px, calc(100% - 24px));
		padding: 10px 12px;
		border: 1px solid #5a5a5a;
		border-radius: 6px;
		background: var(--color-panel);
		box-shadow: 0 4px 16px #0009;
		font-size: 13px;
		white-space: normal;
	}
	.actions {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 6px;
		margin-top: 8px;
	}
	.actions .bare-button {
		margin-left: auto;
	}
	.quiet {
		color: var(--color-quiet);
	}
	.space {
		flex: 1;
	}
</style>
