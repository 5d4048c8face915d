<script lang="ts">
	// The cuts of a finished video: found by a job, listed with how sure, thinned by a dial.
	import { onDestroy } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, need, type Clip } from '$lib/api/client';
	import type { components } from '$lib/api/generated/schema';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { notices } from '$lib/ui/notices.svelte';
	import { counted, rateNumber, timecode } from '$lib/ui/numbers';

	type Search = components['schemas']['CutSearchOut'];
	let { clip, name, ondone }: { clip: Clip; name: string; ondone: () => void } = $props();

	const POLL_MS = 400;
	let search = $state.raw<Search | null>(null);
	let threshold = $state(0.5);
	let byHand = $state<number[]>([]);
	let refused = $state<number[]>([]);
	let newFrame = $state(1);
	let making = $state(false);
	let timer: ReturnType<typeof setTimeout> | undefined;

	let shown = $derived(
		[
			...(search?.cuts ?? []).filter((each) => each.confidence >= threshold),
			...byHand.map((frame) => ({ frame, confidence: 1 }))
		]
			.filter((each, n, all) => all.findIndex((other) => other.frame === each.frame) === n)
			.sort((a, b) => a.frame - b.frame)
	);
	let kept = $derived(shown.filter((each) => !refused.includes(each.frame)));
	let running = $derived(!search || ['waiting', 'running'].includes(search.state));

	onDestroy(() => clearTimeout(timer));
	void start();

	async function start() {
		const path = { params: { path: { clip_id: clip.id } } };
		try {
			await need(api.POST('/api/clips/{clip_id}/cuts', path));
			await follow();
		} catch (error) {
			notices.wrong(error);
		}
	}

	// Everything that has a score is fetched once: the dial then answers at once.
	async function follow() {
		const path = { params: { path: { clip_id: clip.id }, query: { threshold: 0 } } };
		search = await need(api.GET('/api/clips/{clip_id}/cuts', path));
		if (running) timer = setTimeout(() => void follow().catch(notices.wrong), POLL_MS);
	}

	async function cancel() {
		const path = { params: { path: { clip_id: clip.id } } };
		try {
			search = await need(api.POST('/api/clips/{clip_id}/cuts/cancel', path));
		} catch (error) {
			notices.wrong(error);
		}
	}

	async function make() {
		making = true;
		try {
			const path = { params: { path: { clip_id: clip.id } } };
			const body = { name: name.trim() || clip.name, frames: kept.map(({ frame }) => frame) };
			const edit = await need(api.POST('/api/clips/{clip_id}/edit', { ...path, body }));
			ondone();
			await goto(`/edits/${edit.id}`);
		} catch (error) {
			notices.wrong(error);
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
		refused = refused.includes(frame)
			? refused.filter((each) => each !== frame)
			: [...refused, frame];
	}
</script>

{#if !search || running}
	<div class="flex items-center gap-3" role="status">
		<progress
			class="flex-1"
			max={search?.total_frames || 1}
			value={search?.done_frames ?? 0}
			aria-label="Looking for cuts"
		></progress>
		<span class="figures text-quiet"
			>{search ? `${search.done_frames} of ${search.total_frames} frames` : 'starting…'}</span
		>
		<button class="plain-button" onclick={cancel}>Cancel</button>
	</div>
{:else if search.state !== 'done'}
	<p class="text-broken">{search.message || 'The search was cancelled.'}</p>
	<button class="plain-button self-start" onclick={start}>Look again</button>
{:else}
	<div class="flex items-center gap-3">
		<span class="small text-quiet">how sure at least</span>
		<input
			type="range"
			min="0.05"
			max="1"
			step="0.01"
			aria-label="How sure at least"
			bind:value={threshold}
		/>
		<span class="figures">{Math.round(threshold * 100)} %</span>
		<span class="flex-1"></span>
		<span class="small text-quiet">add at frame</span>
		<NumberField
			label="Frame of a cut to add"
			value={newFrame}
			low={1}
			high={clip.frame_count - 1}
			onchange={(frame) => (newFrame = frame)}
		/>
		<button
			class="plain-button"
			onclick={() => {
				byHand = [...byHand, newFrame];
				refused = refused.filter((each) => each !== newFrame);
			}}>Add</button
		>
	</div>
	<div class="film">
		{#each film as address (address)}<img src={address} alt="" />{/each}
		{#each shown as { frame } (frame)}
			<button
				class:refused={refused.includes(frame)}
				style:left="{(100 * frame) / clip.frame_count}%"
				aria-label="Cut at frame {frame}"
				title="Frame {frame}: {refused.includes(frame) ? 'keep it as a cut' : 'no cut'}"
				onclick={() => toggle(frame)}
			></button>
		{/each}
	</div>
	<ol class="found">
		{#each shown as { frame, confidence } (frame)}
			<li class:refused={refused.includes(frame)}>
				<img src="/api/clips/{clip.id}/pictures/{frame - 1}.jpg?height=72" alt="" loading="lazy" />
				<img src="/api/clips/{clip.id}/pictures/{frame}.jpg?height=72" alt="" loading="lazy" />
				<span class="figures">{frame}</span>
				<span class="figures small text-quiet">{timecode(frame, rateNumber(clip.rate))}</span>
				<span class="figures small">{Math.round(confidence * 100)} % sure</span>
				<button class="bare-button" onclick={() => toggle(frame)}
					>{refused.includes(frame) ? 'keep' : 'no cut'}</button
				>
			</li>
		{:else}
			<li class="text-quiet">No cut is that sure. Lower the dial, or add one by hand.</li>
		{/each}
	</ol>
	<button class="plain-button strong self-end" disabled={making} onclick={make}
		>Make an edit with {counted(kept.length, 'cut')}</button
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
		width: 7px;
		margin-left: -3.5px;
		border-right: 2px solid transparent;
		border-left: 2px solid transparent;
		background: var(--color-seam);
		background-clip: padding-box;
	}
	.film button.refused {
		background-color: var(--color-quiet);
	}
	.found {
		display: flex;
		flex-direction: column;
		max-height: 40vh;
		gap: 4px;
		overflow-y: auto;
	}
	.found li {
		display: flex;
		align-items: center;
		gap: 10px;
	}
	.found li img {
		height: 40px;
		background: var(--color-surround);
	}
	.found li img + img {
		margin-left: -8px;
		border-left: 2px solid var(--color-seam);
	}
	.refused {
		opacity: 0.5;
		text-decoration: line-through;
	}
	.found .bare-button {
		margin-left: auto;
	}
	progress,
	input[type='range'] {
		accent-color: var(--color-seam);
	}
</style>
