<script lang="ts">
	// Which frames of both clips meet best: a map of all pairs, and the best three to choose.
	import { api, request, type FramePairs } from '$lib/api/client';
	import type { Bench } from '$lib/bench/bench.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Switch from '$lib/ui/Switch.svelte';
	import { fromCut } from '$lib/ui/numbers';
	import { toast } from '$lib/ui/toast.svelte';
	import { stepCutFrames } from '../cutSteps';

	let { bench, slip }: { bench: Bench; slip: boolean } = $props();

	const DARKEST = 0.12;
	let compared = $state.raw<{ at: string; pairs: FramePairs } | null>(null);
	/** Ends the comparison that runs. */
	let comparing = $state.raw<AbortController | null>(null);
	/** Whether the incoming clip is placed over the outgoing one as well. */
	let placed = $state(true);
	let canvas = $state<HTMLCanvasElement>();
	let transition = $derived(bench.transition);
	/** The frames that meet now: pairs are counted from them, and hold as long as they do. */
	let at = $derived(`${transition.cut.outgoing.end_shown} ${transition.cut.incoming.first_shown}`);
	let pairs = $derived(compared?.at === at ? compared.pairs : null);
	let alike = $derived(pairs?.alike ?? false);

	async function find() {
		const running = (comparing = new AbortController());
		const { signal } = running;
		try {
			// Where a clip is stepped meanwhile, they are compared anew.
			for (let from = ''; from !== at;) {
				from = at;
				const params = { path: { cut_id: transition.cut.id } };
				const pairs = await request(api.GET('/api/cuts/{cut_id}/frame-pairs', { params, signal }));
				compared = { at: from, pairs };
			}
		} catch (error) {
			if (!signal.aborted) toast.error(error);
		} finally {
			if (comparing === running) comparing = null;
		}
	}

	async function take(outgoing: number, incoming: number) {
		await stepCutFrames(transition, { outgoing, incoming, slip });
		if (placed && alike) await transition.framing.match('placement');
		toast.info(
			`The cut frames are ${fromCut(outgoing)} outgoing and ${fromCut(incoming)} incoming.`
		);
	}

	// A pixel for each pair: the brighter, the more alike among all of them.
	$effect(() => {
		const context = canvas?.getContext('2d');
		if (!context || !pairs || !canvas) return;
		const rows = pairs.similarity;
		const [height, width] = [rows.length, rows[0]?.length ?? 0];
		[canvas.width, canvas.height] = [width, height];
		const all = rows.flat();
		const [low, high] = [Math.min(...all), Math.max(...all)];
		const image = context.createImageData(width, height);
		const ink = [245, 240, 230];
		all.forEach((value, n) => {
			const share = DARKEST + ((1 - DARKEST) * (value - low)) / Math.max(high - low, 1e-6);
			image.data.set([...ink.map((part) => part * share ** 2), 255], 4 * n);
		});
		context.putImageData(image, 0, 0);
	});
</script>

<div class="match">
	<span class="flex items-center gap-2" role="status">
		<Button disabled={comparing !== null} onclick={find}
			>{comparing ? 'Comparing frames…' : pairs ? 'Match again' : 'Match frames'}</Button
		>
		{#if comparing}<Button kind="bare" onclick={() => comparing?.abort()}>Cancel</Button>{/if}
	</span>
	{#if pairs}
		<Switch
			label="Match position and scale as well"
			tip="The incoming clip is moved and scaled so that details that both frames show meet"
			on={placed}
			onchange={(on) => (placed = on)}>Match position and scale</Switch
		>
		<div class="found">
			<figure>
				<canvas
					bind:this={canvas}
					aria-label="Similarity of every pair of frames: outgoing from top to bottom, incoming from left to right"
				></canvas>
				<figcaption class="small text-quiet">Incoming →<br />Outgoing ↓</figcaption>
			</figure>
			<ol>
				{#each pairs.best as pair (`${pair.outgoing}|${pair.incoming}`)}
					<li>
						<Button
							class="figures w-full justify-between"
							aria-label="Use outgoing {fromCut(pair.outgoing)}, incoming {fromCut(pair.incoming)}"
							onclick={() => take(pair.outgoing, pair.incoming)}
							><span>{fromCut(pair.outgoing)} | {fromCut(pair.incoming)}</span><span
								class="text-quiet">{Math.round(pair.similarity * 100)} %</span
							></Button
						>
					</li>
				{/each}
			</ol>
		</div>
		<p class="small text-quiet">
			{alike
				? 'Frames from those that meet now.'
				: 'No pair stands out: the clips have little in common here.'}
		</p>
	{/if}
</div>

<style>
	.match {
		display: flex;
		flex-direction: column;
		align-items: flex-start;
		gap: 8px;
		margin-top: 8px;
		text-align: left;
	}
	.found {
		display: flex;
		gap: 12px;
		width: 100%;
	}
	canvas {
		width: 108px;
		height: 108px;
		border: 1px solid var(--color-line);
		image-rendering: pixelated;
	}
	ol {
		display: flex;
		flex: 1;
		flex-direction: column;
		gap: 6px;
	}
</style>
