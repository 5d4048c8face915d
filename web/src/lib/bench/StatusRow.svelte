<script lang="ts">
	// The cut checks in a row, worst first; a click shows the sentence, the frame and the mends.
	import type { Bench } from './bench.svelte';
	import type { Finding, Mend } from './preview.svelte';
	import { patched } from './recipe';

	let { bench, onkeys }: { bench: Bench; onkeys: () => void } = $props();

	const SEVERITY = { ok: 0, look: 1, broken: 2 };
	const MARK = { ok: '✓', look: '◯', broken: '▮' };
	const PLAIN: Record<string, string> = { spare_frames: 'spare frames' };
	const LOOKING = 'looking at the frames';
	let shownId = $state('');

	let findings = $derived(
		[...bench.preview.findings].sort((a, b) => SEVERITY[b.verdict] - SEVERITY[a.verdict])
	);
	let pending = $derived(bench.preview.pending);
	let unknown = $derived(pending.filter((id) => !findings.some((each) => each.id === id)));
	let shown = $derived(findings.find((each) => each.id === shownId));

	function figure({ figure, unit }: Finding): string {
		const units: Record<string, string> = { deg: '°', '%': ' %' };
		return `${Number(figure.toFixed(1))}${units[unit] ?? ` ${unit}`}`;
	}

	function mendsOf(finding: Finding): Mend[] {
		const all = finding.mend ? [finding.mend, ...finding.more_mends] : [];
		return all.filter((each) => each.patch.length || each.move_cut);
	}

	function apply(finding: Finding, mend: Mend) {
		shownId = '';
		if (mend.move_cut) {
			void bench.moveCut(mend.move_cut);
			return;
		}
		bench.change(`mend ${PLAIN[finding.id] ?? finding.id}: ${mend.label}`, (recipe) =>
			patched(recipe, mend.patch)
		);
	}
</script>

<svelte:window onkeydown={(event) => event.key === 'Escape' && (shownId = '')} />

<footer class="status">
	{#if shown}
		{@const finding = shown}
		<div class="told {finding.verdict}" role="dialog" aria-label="Check: {finding.id}">
			<p>
				<b>{PLAIN[finding.id] ?? finding.id}</b>
				<span class="figures quiet">{figure(finding)}</span>
				{finding.sentence}
			</p>
			<div class="actions">
				{#each mendsOf(finding) as mend, n (mend.label)}
					<button
						class="plain-button"
						class:strong={n === 0 && finding.verdict !== 'ok'}
						onclick={() => apply(finding, mend)}>Mend: {mend.label}</button
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
				class="check {finding.verdict}"
				class:pending={pending.includes(finding.id)}
				aria-expanded={shownId === finding.id}
				aria-label="{PLAIN[finding.id] ?? finding.id}: {pending.includes(finding.id)
					? LOOKING
					: finding.verdict}"
				title={finding.sentence}
				onclick={() => (shownId = shownId === finding.id ? '' : finding.id)}
			>
				<span aria-hidden="true">{pending.includes(finding.id) ? '…' : MARK[finding.verdict]}</span>
				{PLAIN[finding.id] ?? finding.id}
				{#if finding.verdict !== 'ok'}<span class="figures">{figure(finding)}</span>{/if}
			</button>
		{:else}
			<span class="quiet">checking…</span>
		{/each}
		{#if findings.length}
			{#each unknown as id (id)}
				<span class="check" title={LOOKING}>… {PLAIN[id] ?? id}</span>
			{/each}
		{/if}
	{/if}
	{#if !bench.preview.connected}
		<span class="problem"
			><span aria-hidden="true">▮</span> no connection to the server, trying again…</span
		>
	{/if}
	<span class="space"></span>
	<button class="bare-button" onclick={onkeys}>keys: ?</button>
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
	.check.look,
	.told.look b {
		color: var(--color-look);
	}
	.check.broken,
	.told.broken b,
	.problem {
		color: var(--color-broken);
	}
	.problem {
		overflow: hidden;
		text-overflow: ellipsis;
	}
	.told {
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
