<script lang="ts">
	// One cut check: its status in the row, and a panel with message, value, frame and fixes.
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { Fix, Found } from '$lib/bench/preview/messages';
	import { checkName, STATUS_MARK } from '$lib/recipe/checkStatus';
	import { patched, readdressed } from '$lib/recipe/recipe';
	import Button from '$lib/ui/Button.svelte';
	import { fromCut } from '$lib/ui/numbers';
	import Popover from '$lib/ui/Popover.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import { moveCut } from '../cutSteps';

	type Props = { bench: Bench; finding: Found; analysing: boolean };
	let { bench, finding, analysing }: Props = $props();

	const COLOURS = { ok: '', warning: 'text-warning', failed: 'text-failed' };
	const UNITS: Record<string, string> = { deg: '°', '%': ' %', times: '×' };
	let open = $state(false);
	let name = $derived(checkName(finding.id));
	let unit = $derived(
		UNITS[finding.unit] ?? ` ${finding.value === 1 ? finding.unit.replace(/s$/, '') : finding.unit}`
	);
	let value = $derived(`${Number(finding.value.toFixed(1))}${unit}`);
	let fixes = $derived(
		(finding.fix ? [finding.fix, ...finding.more_fixes] : []).filter(
			(each) => each.patch.length || each.move_cut || each.window
		)
	);

	let reason = $state('');

	function accept() {
		const text = reason.trim();
		if (!text) return;
		open = false;
		reason = '';
		bench.transition.change(`Accept ${name.toLowerCase()}`, (recipe) => ({
			...recipe,
			accepted: { ...recipe.accepted, [finding.id]: text }
		}));
	}

	function takeBack() {
		open = false;
		bench.transition.change(`Judge ${name.toLowerCase()} again`, (recipe) => {
			const accepted = { ...recipe.accepted };
			delete accepted[finding.id];
			return { ...recipe, accepted };
		});
	}

	function apply(fix: Fix) {
		open = false;
		if (fix.move_cut) void moveCut(bench.transition, fix.move_cut);
		else if (fix.window) bench.transition.setWindow(fix.window.before, fix.window.after);
		else {
			const patch = readdressed(fix.patch, finding.filters, bench.transition.recipe);
			if (!patch || !patched(bench.transition.recipe, patch))
				toast.info('Not fixed: the filter that this is about has been removed.');
			else
				bench.transition.change(
					`Fix ${name.toLowerCase()}: ${fix.label}`,
					(recipe) => patched(recipe, patch) ?? recipe
				);
		}
	}
</script>

<Popover label="Check: {name}" placement="top-start" bind:open>
	{#snippet button(attributes)}
		<Button
			{...attributes}
			kind="bare"
			low
			class="{COLOURS[finding.status]} {analysing ? 'italic' : ''}"
			aria-label="{name}: {analysing
				? 'analysing'
				: finding.accepted !== null
					? 'accepted'
					: finding.status}"
		>
			<span aria-hidden="true">{analysing ? '…' : STATUS_MARK[finding.status]}</span>
			{name}{#if analysing}: analysing{:else if finding.accepted !== null}<span class="text-quiet"
					>accepted</span
				>{:else if finding.status !== 'ok'}<span class="figures">{value}</span>{/if}
		</Button>
	{/snippet}
	<div class="details">
		<p>
			<b class={COLOURS[finding.status]}>{name}</b>
			<span class="figures text-quiet">{value}</span>
			{finding.message}
		</p>
		{#if finding.accepted !== null}
			<p class="mt-1">Accepted: {finding.accepted}</p>
		{:else if finding.status !== 'ok'}
			<div class="actions">
				<TextField
					label="Reason to accept this finding"
					placeholder="Why it is meant to be so"
					class="min-w-56 flex-1"
					bind:value={reason}
					onenter={accept}
				/>
				<Button disabled={!reason.trim()} onclick={accept}>Accept</Button>
			</div>
		{/if}
		<div class="actions">
			{#if finding.accepted !== null}<Button onclick={takeBack}>Judge again</Button>{/if}
			{#each fixes as fix, n (fix.label)}
				<Button
					kind={n === 0 && finding.status !== 'ok' ? 'strong' : 'plain'}
					onclick={() => apply(fix)}>Fix: {fix.label}</Button
				>
			{/each}
			{#if finding.frame !== null}
				<Button onclick={() => bench.view.show(finding.frame ?? 0)}
					>Show frame {fromCut(finding.frame)}</Button
				>
			{/if}
			<Button kind="bare" class="ml-auto" onclick={() => (open = false)}>Close</Button>
		</div>
	</div>
</Popover>

<style>
	.details {
		width: min(540px, calc(100vw - 40px));
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
</style>
