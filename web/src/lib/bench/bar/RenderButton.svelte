<script lang="ts">
	// Renders the window of this cut, once everything is saved; shows progress and the file.
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import { api, request, type Render } from '$lib/api/client';
	import { isActive } from '$lib/activity/activity';
	import type { Finding } from '$lib/bench/preview/messages';
	import type { TransitionDocument } from '$lib/bench/transition.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Progress from '$lib/ui/Progress.svelte';
	import { toast } from '$lib/ui/toast.svelte';

	type Props = { transition: TransitionDocument; findings: Finding[]; margin: number };
	let { transition, findings, margin }: Props = $props();

	const POLL_MS = 500;
	const client = useQueryClient();
	let id = $state('');
	const path = $derived({ params: { path: { render_id: id } } });

	const found = createQuery<Render>(() => ({
		queryKey: ['render', id],
		queryFn: () => request(api.GET('/api/renders/{render_id}', path)),
		enabled: id !== '',
		refetchInterval: ({ state }) => (!state.data || isActive(state.data) ? POLL_MS : false)
	}));
	let render = $derived(id ? found.data : undefined);
	let announced = '';

	$effect(() => {
		if (render?.state !== 'failed' || announced === render.id) return;
		announced = render.id;
		toast.error(new Error(`The render failed: ${render.message}`));
	});

	async function start() {
		try {
			const made = await transition.saver.afterSaving(() =>
				request(api.POST('/api/renders', { body: { cut: transition.cut.id, margin } }))
			);
			if (!made) {
				toast.error(`Not rendered: the changes are not saved yet. ${transition.saver.problem}`);
				return;
			}
			client.setQueryData(['render', made.id], made);
			id = made.id;
			void client.invalidateQueries({ queryKey: ['activity'] });
			// Failed checks never stop a render.
			const failed = findings.find((each) => each.status === 'failed');
			if (failed) toast.info(`Rendering with unresolved checks. ${failed.message}`);
		} catch (error) {
			toast.error(error);
		}
	}

	async function cancel() {
		try {
			await request(api.POST('/api/renders/{render_id}/cancel', path));
			await client.invalidateQueries({ queryKey: ['render', id] });
		} catch (error) {
			toast.error(error);
		}
	}
</script>

{#if render && isActive(render)}
	<span class="running figures">
		<span class="track">
			<Progress label="Rendering" done={render.done_frames} of={render.total_frames} />
		</span>
		{render.state === 'waiting' ? 'Queued' : `${render.done_frames} of ${render.total_frames}`}
		<Button kind="bare" low aria-label="Cancel render" onclick={cancel}>✕</Button>
	</span>
{:else}
	{#if render?.state === 'done'}
		<Button href="/api/renders/{render.id}/file" download>Download</Button>
	{/if}
	<Button
		kind="strong"
		tip="Render this window with {margin} frames before and after, as MP4"
		onclick={start}>Render</Button
	>
{/if}

<style>
	.running {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		font-size: 12px;
	}
	.track {
		width: 100px;
	}
</style>
