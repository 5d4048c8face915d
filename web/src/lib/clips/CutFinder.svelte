<script lang="ts">
	// Cut detection in a finished video: the cuts with their confidence, above a chosen minimum.
	import Button from '$lib/ui/Button.svelte';
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import { goto } from '$app/navigation';
	import { api, request, type Clip } from '$lib/api/client';
	import Progress from '$lib/ui/Progress.svelte';
	import RangeField from '$lib/ui/RangeField.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import { counted, rateNumber, timecode } from '$lib/ui/numbers';

	let { clip, name, ondone }: { clip: Clip; name: string; ondone: () => void } = $props();

	const POLL_MS = 400;
	let started = $state(false);
	/** Why the detection could not be begun or asked for. */
	let problem = $state('');
	const client = useQueryClient();
	const path = $derived({ params: { path: { clip_id: clip.id } } });
	const key = $derived(['detection', clip.id]);
	// Every cut is fetched once, so that the minimum can be changed without a request.
	const found = createQuery(() => ({
		queryKey: key,
		queryFn: () =>
			request(
				api.GET('/api/clips/{clip_id}/cuts', {
					params: { path: { clip_id: clip.id }, query: { threshold: 0 } }
				})
			),
		enabled: started,
		refetchInterval: ({ state }) => (isRunning(state.data) ? POLL_MS : false)
	}));
	let detection = $derived(found.data);
	let threshold = $state(0.5);
	let byHand = $state<number[]>([]);
	let excluded = $state<number[]>([]);
	let newFrame = $state(1);
	let making = $state(false);

	let shown = $derived(
		[
			...(detection?.cuts ?? []).filter((each) => each.confidence >= threshold),
			...byHand.map((frame) => ({ frame, confidence: 1 }))
		]
			.filter((each, n, all) => all.findIndex((other) => other.frame === each.frame) === n)
			.sort((a, b) => a.frame - b.frame)
	);
	let kept = $derived(shown.filter((each) => !excluded.includes(each.frame)));
	let running = $derived(isRunning(detection));
	let failure = $derived.by(() => {
		if (problem || found.error) return problem || found.error?.message;
		const hasEnded = detection && !running && detection.state !== 'done';
		return hasEnded ? detection.message || 'The detection was cancelled.' : '';
	});

	$effect(() => void start());

	function isRunning(detection: { state: string } | undefined): boolean {
		return !detection || ['waiting', 'running'].includes(detection.state);
	}

	async function start() {
		problem = '';
		try {
			await request(api.POST('/api/clips/{clip_id}/cuts', path));
			started = true;
			await client.invalidateQueries({ queryKey: key });
			await client.invalidateQueries({ queryKey: ['activity'] });
		} catch (error) {
			problem = (error as Error).message;
		}
	}

	async function cancel() {
		try {
			await request(api.POST('/api/clips/{clip_id}/cuts/cancel', path));
			await client.invalidateQueries({ queryKey: key });
		} catch (error) {
			toast.error(error);
		}
	}

	async function make() {
		making = true;
		try {
			const body = { name: name.trim() || clip.name, frames: kept.map(({ frame }) => frame) };
			const edit = await request(api.POST('/api/clips/{clip_id}/edit', { ...path, body }));
			ondone();
			await goto(`/edits/${edit.id}`);
		} catch (error) {
			toast.error(error);
		} finally {
			making = false;
		}
	}

	const FILM_PICTURES = 9;
	let film = $derived(
		Array.from({ length: FILM_PICTURES }, (_, n) => {
			const number = Math.floor(((n + 0.5) / FILM_PICTURES) * clip.frame_count);
			return `/api/clips/${clip.id}/pictures/${number}.jpg?height=72&near=true`;
		})
	);

	function toggle(frame: number) {
		excluded = excluded.includes(frame)
			? excluded.filter((each) => each !== frame)
			: [...excluded, frame];
	}
</script>

{#if failure}
	<p class="text-failed" role="alert"><span aria-hidden="true">▮</span> {failure}</p>
	<Button class="self-start" onclick={start}>Retry</Button>
{:else if !detection || running}
	<div class="flex items-center gap-3" role="status">
		<span class="flex-1"
			><Progress
				label="Detecting cuts"
				done={detection?.done_frames ?? 0}
				of={detection?.total_frames ?? 1}
			/></span
		>
		<span class="figures text-quiet"
			>{detection ? `${detection.done_frames} of ${detection.total_frames} frames` : 'Queued'}</span
		>
		<Button onclick={cancel}>Cancel</Button>
	</div>
{:else}
	<div class="flex items-center gap-3">
		<span class="small text-quiet">Minimum confidence</span>
		<span class="w-40"
			><RangeField
				label="Minimum confidence"
				low={0.05}
				high={1}
				step={0.01}
				text="{Math.round(threshold * 100)} %"
				bind:value={threshold}
			/></span
		>
		<span class="figures">{Math.round(threshold * 100)} %</span>
		<span class="flex-1"></span>
		<span class="small text-quiet">Add at frame</span>
		<NumberField
			label="Frame of a cut to add"
			value={newFrame}
			low={1}
			high={clip.frame_count - 1}
			onchange={(frame) => (newFrame = frame)}
		/>
		<Button
			onclick={() => {
				byHand = [...byHand, newFrame];
				excluded = excluded.filter((each) => each !== newFrame);
			}}>Add</Button
		>
	</div>
	<div class="film">
		{#each film as address (address)}<img src={address} alt="" />{/each}
		{#each shown as { frame } (frame)}
			<button
				class:excluded={excluded.includes(frame)}
				style:left="{(100 * frame) / clip.frame_count}%"
				aria-label="Cut at frame {frame}"
				aria-pressed={!excluded.includes(frame)}
				onclick={() => toggle(frame)}
			></button>
		{/each}
	</div>
	<ol class="cuts">
		{#each shown as { frame, confidence } (frame)}
			<li class:excluded={excluded.includes(frame)}>
				<img src="/api/clips/{clip.id}/pictures/{frame - 1}.jpg?height=72" alt="" loading="lazy" />
				<img src="/api/clips/{clip.id}/pictures/{frame}.jpg?height=72" alt="" loading="lazy" />
				<span class="figures">{frame}</span>
				<span class="figures small text-quiet">{timecode(frame, rateNumber(clip.rate))}</span>
				<span class="figures small">{Math.round(confidence * 100)} %</span>
				<Button kind="bare" class="ml-auto" onclick={() => toggle(frame)}
					>{excluded.includes(frame) ? 'Include' : 'Exclude'}</Button
				>
			</li>
		{:else}
			<li class="text-quiet">No cuts at this confidence. Lower the minimum, or add one by hand.</li>
		{/each}
	</ol>
	<Button kind="strong" class="self-end" disabled={making} onclick={make}
		>Create edit with {counted(kept.length, 'cut')}</Button
	>
{/if}

<style>
	.film {
		position: relative;
		display: flex;
		height: 40px;
		border-radius: 6px;
		background: var(--color-surround);
	}
	.film img {
		flex: 1;
		width: 0;
		min-width: 0;
		height: 100%;
		object-fit: cover;
	}
	.film button {
		position: absolute;
		top: -4px;
		bottom: -4px;
		width: 24px;
		margin-left: -12px;
		border-right: 10.5px solid transparent;
		border-left: 10.5px solid transparent;
		background: var(--color-seam);
		background-clip: padding-box;
	}
	.film button.excluded {
		background-color: var(--color-quiet);
	}
	.cuts {
		display: flex;
		flex-direction: column;
		max-height: 40vh;
		gap: 4px;
		overflow-y: auto;
	}
	.cuts li {
		display: flex;
		align-items: center;
		gap: 10px;
	}
	.cuts li img {
		height: 40px;
		background: var(--color-surround);
	}
	.cuts li img + img {
		margin-left: -8px;
		border-left: 2px solid var(--color-seam);
	}
	.excluded {
		opacity: 0.5;
		text-decoration: line-through;
	}
</style>
