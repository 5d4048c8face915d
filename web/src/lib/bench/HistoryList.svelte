<script lang="ts">
	// The history of this cut: every step, each of which can be returned to.
	import { Popover } from 'flowbite-svelte';
	import { api, request, type History } from '$lib/api/client';
	import { toast } from '$lib/ui/toast.svelte';
	import type { Bench } from './bench.svelte';

	let { bench }: { bench: Bench } = $props();

	let open = $state(false);
	let history = $state.raw<History | null>(null);

	$effect(() => {
		void bench.cut.version;
		if (open) void load();
	});

	async function load() {
		await bench.flush();
		try {
			const path = { params: { path: { cut_id: bench.cut.id } } };
			history = await request(api.GET('/api/cuts/{cut_id}/history', path));
		} catch (error) {
			toast.error(error);
		}
	}

	function time(at: string): string {
		return new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
	}
</script>

<button class="plain-button" id="history" aria-expanded={open} title="History of this cut"
	>History</button
>
<Popover
	bind:isOpen={open}
	triggeredBy="#history"
	trigger="click"
	placement="bottom-end"
	arrow={false}
	class="z-40 border border-line bg-panel! text-ink!"
	defaultClass="p-0"
>
	<ol class="steps" aria-label="History of this cut">
		{#each history?.steps.toReversed() ?? [] as step (step.number)}
			<li>
				<button
					class:current={step.number === history?.current}
					class:undone={step.number > (history?.current ?? 0)}
					aria-current={step.number === history?.current ? 'step' : undefined}
					onclick={() => bench.goTo(step.number)}
				>
					<span>{step.label}</span>
					<span class="figures small quiet">{time(step.created_at)}</span>
				</button>
			</li>
		{:else}
			<li class="quiet">Loading history…</li>
		{/each}
	</ol>
</Popover>

<style>
	.steps {
		width: 340px;
		max-height: 420px;
		padding: 4px;
		overflow-y: auto;
	}
	button:not(.plain-button) {
		display: flex;
		justify-content: space-between;
		width: 100%;
		padding: 4px 8px;
		border-radius: 4px;
		gap: 12px;
		text-align: left;
	}
	.steps button:hover {
		background: var(--color-line);
	}
	.small {
		white-space: nowrap;
	}
	.current {
		background: var(--color-surround);
		font-weight: 600;
	}
	.undone > span:first-child {
		color: var(--color-quiet);
		text-decoration: line-through;
	}
	.quiet {
		color: var(--color-quiet);
	}
</style>
