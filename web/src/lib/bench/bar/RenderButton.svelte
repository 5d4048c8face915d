<script lang="ts">
	// Opens the Render dialog; shows the progress of what was rendered from here, and its file.
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import { api, request, type Render } from '$lib/api/client';
	import { isActive, framesText } from '$lib/shell/activity';
	import type { Finding } from '$lib/bench/preview/messages';
	import type { TransitionDocument } from '$lib/bench/transition.svelte';
	import { checkName } from '$lib/recipe/checkStatus';
	import RenderDialog from '$lib/render/RenderDialog.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Progress from '$lib/ui/Progress.svelte';
	import { toast } from '$lib/ui/toast.svelte';

	type Props = { transition: TransitionDocument; findings: Finding[] };
	let { transition, findings }: Props = $props();

	const POLL_MS = 500;
	const client = useQueryClient();
	let id = $state('');
	let asking = $state(false);
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

	let problems = $derived(
		findings
			.filter((each) => each.status !== 'ok')
			.sort((one, other) => one.status.localeCompare(other.status))
			.map(({ id, status, message }) => ({
				status: status as 'warning' | 'failed',
				text: `${checkName(id)}: ${message}`
			}))
	);

	function rendering(made: Render) {
		client.setQueryData(['render', made.id], made);
		id = made.id;
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
		{render.state === 'waiting' ? 'Queued' : framesText(render)}
		<Button kind="bare" low aria-label="Cancel render" onclick={cancel}>✕</Button>
	</span>
{:else}
	{#if render?.state === 'done'}
		<Button href="/api/renders/{render.id}/file" download>Download</Button>
	{/if}
	<Button kind="strong" tip="Render this window, or the edit" onclick={() => (asking = true)}
		>Render…</Button
	>
{/if}
<RenderDialog
	bind:open={asking}
	subject={{ edit: transition.cut.edit_id, cut: transition.cut.id }}
	width={transition.cut.width}
	height={transition.cut.height}
	{problems}
	afterSaving={(work) => transition.saver.afterSaving(work)}
	onrendering={rendering}
/>

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
