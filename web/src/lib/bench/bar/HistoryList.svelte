<script lang="ts">
	// The history of this cut: every step, each of which can be returned to.
	import { createQuery } from '@tanstack/svelte-query';
	import { api, request } from '$lib/api/client';
	import type { TransitionDocument } from '$lib/bench/transition.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import { goToStep } from '../cutSteps';

	let { transition }: { transition: TransitionDocument } = $props();

	let open = $state(false);
	const cutId = $derived(transition.cut.id);
	const history = createQuery(() => ({
		queryKey: ['history', cutId, transition.cut.version],
		queryFn: async () => {
			await transition.saver.flush();
			return request(
				api.GET('/api/cuts/{cut_id}/history', { params: { path: { cut_id: cutId } } })
			);
		},
		enabled: open
	}));

	function time(at: string): string {
		return new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
	}
</script>

<Popover label="History of this cut" placement="bottom-end" bind:open>
	{#snippet button(attributes)}
		<Button {...attributes} tip="Every step of this cut; each can be returned to">History</Button>
	{/snippet}
	{#if history.error}
		<p class="quiet">{history.error.message}</p>
	{:else if !history.data}
		<p class="quiet">Loading history…</p>
	{:else}
		{@const { steps, current } = history.data}
		<ol class="steps" aria-label="Steps, newest first">
			{#each steps.toReversed() as step (step.number)}
				<li>
					<Button
						kind="bare"
						class="w-full justify-between gap-3 {step.number === current
							? 'bg-surround font-semibold text-ink'
							: ''} {step.number > current ? 'line-through' : ''}"
						aria-current={step.number === current ? 'step' : undefined}
						onclick={() => goToStep(transition, step.number)}
					>
						<span class="truncate">{step.label}</span>
						<span class="figures small max-w-40 truncate"
							>{step.author ? `${step.author}, ` : ''}{time(step.created_at)}</span
						>
					</Button>
				</li>
			{/each}
		</ol>
	{/if}
</Popover>

<style>
	.steps {
		width: 340px;
		max-height: 420px;
	}
	.quiet {
		color: var(--color-quiet);
	}
</style>
