<script lang="ts">
	// The subject of a clip, on its card: what is marked, and the panel that marks it.
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import Button from '$lib/ui/Button.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import SubjectPanel from './SubjectPanel.svelte';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	let open = $state(false);
	let subject = $derived(bench.subjects[side]);
	let matte = $derived(subject.matte);
	let summary = $derived.by(() => {
		if (!subject.strokes.length) return 'Mark…';
		if (!matte) return 'Marked';
		if (subject.atWork && matte)
			return `${Math.round((100 * matte.done_frames) / matte.total_frames)} %…`;
		return matte?.state === 'done' ? 'Marked' : 'Not ready';
	});
</script>

<Button
	low
	tip="Mark what stands in front of its background, to treat it apart"
	aria-haspopup="dialog"
	aria-label="{summary}: subject of the {side} clip"
	onclick={() => (open = true)}>{summary}</Button
>
<Dialog bind:open title="Subject of {bench.transition.cut[side].name}" size="xl">
	{#if open}<SubjectPanel {bench} {subject} />{/if}
</Dialog>
