<script lang="ts">
	// Where a subject is marked: the picture with its matte, the brush, frames, and how far it is.
	import { onDestroy, onMount, untrack } from 'svelte';
	import type { SubjectView } from '$lib/api/client';
	import type { Bench } from '$lib/bench/bench.svelte';
	import Button from '$lib/ui/Button.svelte';
	import Progress from '$lib/ui/Progress.svelte';
	import RangeField from '$lib/ui/RangeField.svelte';
	import Select from '$lib/ui/Select.svelte';
	import { clamped, fromCut } from '$lib/ui/numbers';
	import { toast } from '$lib/ui/toast.svelte';
	import StrokeCanvas from './StrokeCanvas.svelte';
	import { strokesOn, withBox, withLine, withoutFrame, type Tool } from './strokes';
	import type { Subject } from './subject.svelte';

	let { bench, subject }: { bench: Bench; subject: Subject } = $props();

	const TOOLS: { tool: Tool; name: string; tip: string }[] = [
		{ tool: 'box', name: 'Box', tip: 'Drag a box around the subject (1)' },
		{ tool: 'keep', name: 'Keep', tip: 'Draw on what belongs to the subject (2)' },
		{ tool: 'remove', name: 'Remove', tip: 'Draw on what does not belong to it (3)' }
	];
	const VIEWS: { value: SubjectView; name: string }[] = [
		{ value: 'overlay', name: 'Background dimmed' },
		{ value: 'cut_out', name: 'Cut-out' },
		{ value: 'matte', name: 'Matte' },
		{ value: 'edge', name: 'Edge' },
		{ value: 'picture', name: 'Picture' }
	];
	const SIZE = { least: 0.005, most: 0.15, step: 0.005 };
	/** Frames that can be marked on both sides of those that the window reads. */
	const REACH = 12;

	let tool = $state<Tool>('box');
	let size = $state(0.03);
	let view = $state<SubjectView>('overlay');
	let chosen = $state<number | null>(null);
	let address = $state('');
	let cut = $derived(bench.transition.cut);
	let facts = $derived(subject.facts);
	let matte = $derived(subject.matte);
	let first = $derived(Math.max(0, (facts?.first_shown ?? 0) - REACH));
	let last = $derived(Math.min((facts?.picture_count ?? 1) - 1, (facts?.last_shown ?? 0) + REACH));
	let atCut = $derived(facts?.at_cut ?? 0);
	let frame = $derived(clamped(chosen ?? atCut, first, last));
	let on = $derived(strokesOn(subject.strokes, frame));
	let marked = $derived(subject.strokes.map((each) => each.frame));
	let doubts = $derived(matte?.doubtful ?? []);

	/** A frame as the strip counts it: outgoing ends at −1, incoming begins at 0. */
	function named(number: number): string {
		return fromCut(number - atCut + (subject.side === 'outgoing' ? -1 : 0));
	}

	// The picture follows what it shows, not every report of how far the matte is: one request is on its
	// way, the newest state waits.
	let isKnown = $derived(!!facts);
	let made = $derived(`${matte?.id} ${matte?.state}`);
	let busy = false;
	let again = false;
	$effect(() => {
		void [frame, view, subject.strokes, made, isKnown];
		untrack(() => void look());
	});

	async function look() {
		again = busy;
		if (busy || !facts) return;
		busy = true;
		try {
			const image = await subject.look(frame, view);
			if (address) URL.revokeObjectURL(address);
			address = URL.createObjectURL(image);
		} catch (error) {
			toast.error(error);
		} finally {
			busy = false;
			if (again) void look();
		}
	}
	onMount(() => void subject.load(true));
	onDestroy(() => URL.revokeObjectURL(address));

	function setSize(next: number) {
		size = Number(clamped(next, SIZE.least, SIZE.most).toFixed(3));
	}

	function step(by: number) {
		chosen = clamped(frame + by, first, last);
	}

	function onkeydown(event: KeyboardEvent) {
		if (event.ctrlKey && event.key.toLowerCase() === 'z') {
			if (event.shiftKey) subject.redo();
			else subject.undo();
		} else if (event.ctrlKey || event.altKey || event.metaKey) return;
		else if (event.key === 'PageUp') step(-1);
		else if (event.key === 'PageDown') step(1);
		else if (['1', '2', '3'].includes(event.key)) tool = TOOLS[Number(event.key) - 1]?.tool ?? tool;
		else if (event.key === '-') setSize(size - SIZE.step);
		else if (event.key === '=' || event.key === '+') setSize(size + SIZE.step);
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="panel" {onkeydown}>
	<div class="seen">
		<StrokeCanvas
			{address}
			{tool}
			{size}
			{on}
			shape={cut[subject.side].clip.width / Math.max(1, cut[subject.side].clip.height)}
			online={(line) => {
				if (tool !== 'box') subject.draw(withLine(subject.strokes, frame, tool, line, size));
			}}
			onbox={(corners) => {
				subject.draw(withBox(subject.strokes, frame, corners));
				tool = 'keep';
			}}
		/>
		<div class="frames">
			<Button low aria-label="Frame before" tip="Page up" onclick={() => step(-1)}>‹</Button>
			<RangeField
				label="Frame"
				low={first}
				high={last}
				step={1}
				text="Frame {named(frame)}"
				bind:value={() => frame, (next) => (chosen = next)}
			/>
			<Button low aria-label="Next frame" tip="Page down" onclick={() => step(1)}>›</Button>
			<span class="figures number">Frame {named(frame)}</span>
			<Button low disabled={frame === atCut} onclick={() => (chosen = atCut)}>Cut frame</Button>
		</div>
	</div>
	<div class="side">
		<div class="tools" role="group" aria-label="Tool">
			{#each TOOLS as each (each.tool)}
				<Button pressed={tool === each.tool} tip={each.tip} onclick={() => (tool = each.tool)}
					>{each.name}</Button
				>
			{/each}
		</div>
		<label class="line">
			<span class="text-quiet">Brush</span>
			<RangeField
				label="Size of the brush"
				low={SIZE.least}
				high={SIZE.most}
				step={SIZE.step}
				text="{Math.round(size * 1000) / 10} % of the height"
				bind:value={size}
			/>
		</label>
		<div class="line">
			<span class="text-quiet">View</span>
			<Select
				wide
				label="View of the subject"
				value={view}
				items={VIEWS}
				onchange={(next) => (view = next)}
			/>
		</div>
		<div class="line">
			<Button disabled={!subject.canUndo} tip="Ctrl+Z" onclick={() => subject.undo()}>Undo</Button>
			<Button disabled={!subject.canRedo} tip="Ctrl+Shift+Z" onclick={() => subject.redo()}
				>Redo</Button
			>
			<Button
				disabled={!marked.includes(frame)}
				tip="Remove the box and the strokes on this frame"
				onclick={() => subject.draw(withoutFrame(subject.strokes, frame))}>Clear frame</Button
			>
		</div>
		{#if marked.length}
			<div class="list">
				<span class="text-quiet small">Marked on frames</span>
				<span class="jumps">
					{#each marked as number (number)}
						<Button low pressed={number === frame} onclick={() => (chosen = number)}
							>{named(number)}</Button
						>
					{/each}
				</span>
			</div>
		{:else}
			<p class="small text-quiet">
				Drag a box around the subject, then draw a line through it with Keep. One frame is enough to
				begin; correct others where the matte is wrong.
			</p>
		{/if}
		<div class="list" aria-live="polite">
			{#if subject.atWork && matte}
				<span class="small">Frame {matte.done_frames} of {matte.total_frames}</span>
				<Progress label="Frames of the subject" done={matte.done_frames} of={matte.total_frames} />
				<Button low onclick={() => subject.cancel()}>Cancel</Button>
			{:else if matte?.state === 'done'}
				<span class="small">✓ Ready for {matte.total_frames} frames</span>
			{:else if matte}
				<span class="small text-warning">{matte.message || 'Cancelled.'}</span>
				<Button low onclick={() => subject.make()}>Make again</Button>
			{/if}
		</div>
		{#if doubts.length}
			<div class="list">
				<span class="small text-warning">◯ Look at these frames: the matte changes most there</span>
				<span class="jumps">
					{#each doubts as number (number)}
						<Button low pressed={number === frame} onclick={() => (chosen = number)}
							>{named(number)}</Button
						>
					{/each}
				</span>
			</div>
		{/if}
	</div>
</div>

<style>
	.panel {
		display: flex;
		flex-wrap: wrap;
		gap: 16px;
	}
	.seen {
		display: flex;
		flex: 1 1 480px;
		flex-direction: column;
		min-width: 0;
		gap: 8px;
	}
	.frames {
		display: flex;
		align-items: center;
		gap: 8px;
	}
	.number {
		min-width: 76px;
		white-space: nowrap;
	}
	.side {
		display: flex;
		flex: 0 0 250px;
		flex-direction: column;
		gap: 10px;
	}
	.tools {
		display: flex;
		gap: 4px;
	}
	.line {
		display: flex;
		align-items: center;
		gap: 8px;
	}
	.line > span {
		flex: none;
		min-width: 40px;
	}
	.list {
		display: flex;
		flex-direction: column;
		align-items: flex-start;
		gap: 4px;
	}
	.jumps {
		display: flex;
		flex-wrap: wrap;
		gap: 4px;
	}
</style>
