<script lang="ts">
	// A button that lists the steps of a history, each of which can be returned to.
	import { createQuery } from '@tanstack/svelte-query';
	import Button from '$lib/ui/Button.svelte';
	import Popover from '$lib/ui/Popover.svelte';

	type Step = { number: number; label: string; author: string | null; created_at: string | null };
	type Props = {
		/** What it is the history of, as "this cut". */
		of: string;
		/** Another value, and it is read anew. */
		version: string;
		read: () => Promise<{ steps: Step[]; current: number }>;
		onchoose: (number: number) => unknown;
		/** What stands below the first step, where one can go back behind it. */
		start?: string;
	};
	let { of, version, read, onchoose, start }: Props = $props();

	let open = $state(false);
	const history = createQuery(() => ({
		queryKey: ['history', of, version],
		queryFn: read,
		enabled: open
	}));
	let steps = $derived.by(() => {
		const found = history.data?.steps.toReversed() ?? [];
		if (!start) return found;
		return [...found, { number: 0, label: start, author: null, created_at: null }];
	});

	function about({ author, created_at }: Step): string {
		const time =
			created_at &&
			new Date(created_at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
		return [author, time].filter(Boolean).join(', ');
	}
</script>

<Popover label="History of {of}" placement="bottom-end" bind:open>
	{#snippet button(attributes)}
		<Button {...attributes} tip="Every step of {of}; each can be returned to">History</Button>
	{/snippet}
	{#if history.error}
		<p class="text-quiet">{history.error.message}</p>
	{:else if !history.data}
		<p class="text-quiet">Loading history…</p>
	{:else}
		{@const { current } = history.data}
		<ol class="steps" aria-label="Steps, newest first">
			{#each steps as step (step.number)}
				<li>
					<Button
						kind="bare"
						class="w-full justify-between gap-3 {step.number === current
							? 'bg-surround font-semibold text-ink'
							: ''} {step.number > current ? 'line-through' : ''}"
						aria-current={step.number === current ? 'step' : undefined}
						onclick={() => onchoose(step.number)}
					>
						<span class="truncate">{step.label}</span>
						<span class="figures small max-w-40 truncate">{about(step)}</span>
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
</style>
