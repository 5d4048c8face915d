<script lang="ts">
	import { fromCut, rounded, timecode } from '$lib/ui/numbers';
	import { COMPARES, type Bench, type Compare } from './bench.svelte';
	import { blurPressed } from './keys';
	import type { Player } from './player.svelte';

	let { bench, player }: { bench: Bench; player: Player } = $props();

	const speeds = [
		{ speed: 1, name: '1' },
		{ speed: 0.5, name: '½' },
		{ speed: 0.25, name: '¼' }
	];
	const NAMES: Record<Compare, string> = {
		result: 'Result',
		original: 'Original',
		split: 'Split',
		difference: 'Difference',
		'cut frames': 'Cut frames overlaid',
		'cut difference': 'Cut frames, difference'
	};
	let seconds = $derived((bench.before + bench.after) / bench.rate);
	let long = $derived(
		`${(bench.before / bench.rate).toFixed(2)} s before, ${(bench.after / bench.rate).toFixed(2)} s after`
	);
	let beats = $derived(rounded((seconds * (bench.cut.beats_per_minute ?? 0)) / 60, 0.05));
	let inWindow = $derived(bench.shown >= -bench.before && bench.shown < bench.after);
</script>

<!-- svelte-ignore a11y_click_events_have_key_events -->
<div class="transport" role="toolbar" tabindex="-1" aria-label="Transport" onclick={blurPressed}>
	<div class="part">
		<span class="quiet">Window</span>
		<span class="figures" title={long}>{bench.before} | {bench.after}</span>
		{#if bench.cut.beats_per_minute}
			<span class="figures quiet small" title="Duration in beats">{beats} beats</span>
		{/if}
		<button
			class="plain-button"
			aria-label="Shorter window"
			title="Shorter window (−)"
			onclick={() => bench.setWindow(bench.before - 1, bench.after - 1)}>−</button
		>
		<button
			class="plain-button"
			aria-label="Longer window"
			title="Longer window (=)"
			onclick={() => bench.setWindow(bench.before + 1, bench.after + 1)}>+</button
		>
	</div>
	<div class="part middle">
		<button
			class="plain-button"
			aria-label="One frame back"
			title="One frame back (←)"
			onclick={() => bench.show(bench.shown - 1)}>‹</button
		>
		<output class="where figures" aria-label="Shown frame">
			<b class:out={bench.shown < 0} class:in={bench.shown >= 0}>{fromCut(bench.shown)}</b>
			<span class="quiet">{timecode(bench.cut.edit_frame + bench.shown, bench.rate)}</span>
		</output>
		<button
			class="plain-button"
			aria-label="One frame forward"
			title="One frame forward (→)"
			onclick={() => bench.show(bench.shown + 1)}>›</button
		>
		<button
			class="plain-button play"
			onclick={() => player.toggle()}
			title={bench.playing ? 'Stop (Space)' : 'Play the loop (Space)'}
		>
			{bench.playing ? 'Stop' : 'Play loop'}
		</button>
		<div class="group" role="group" aria-label="Playback speed">
			{#each speeds as { speed, name } (speed)}
				<button
					class="plain-button"
					class:pressed={bench.speed === speed}
					aria-pressed={bench.speed === speed}
					aria-label="Speed {name}"
					onclick={() => player.setSpeed(speed)}>{name}</button
				>
			{/each}
		</div>
		<button
			class="plain-button"
			class:pressed={bench.sound.on}
			aria-pressed={bench.sound.on}
			title="Play the clips' sound (M)"
			onclick={() => player.toggleSound()}>{bench.sound.on ? 'Sound on' : 'Sound off'}</button
		>
	</div>
	<div class="part end">
		{#if !inWindow}<span class="quiet small">Run-up: outside the window</span>{/if}
		<label class="quiet small compare"
			>View
			<select
				class="choice"
				aria-label="View"
				title="What the picture shows. Hold H for the original, G for split"
				value={bench.compare}
				onchange={(event) => bench.setCompare(event.currentTarget.value as Compare)}
			>
				{#each COMPARES as each (each)}<option value={each}>{NAMES[each]}</option>{/each}
			</select></label
		>
	</div>
</div>

<style>
	.transport {
		display: grid;
		grid-template-columns: 1fr auto 1fr;
		align-items: center;
		height: 36px;
		flex: none;
		padding: 0 16px;
		border-top: 1px solid var(--color-line);
		border-bottom: 1px solid var(--color-line);
		background: var(--color-panel);
	}
	.part {
		display: flex;
		align-items: center;
		gap: 8px;
		white-space: nowrap;
	}
	.end {
		justify-content: flex-end;
	}
	.compare {
		display: inline-flex;
		align-items: center;
		gap: 6px;
	}
	.quiet {
		color: var(--color-quiet);
	}
	.where {
		display: inline-flex;
		justify-content: space-between;
		width: 138px;
		padding: 3px 8px;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-page);
		font-size: 12px;
	}
	.out {
		color: var(--color-outgoing);
	}
	.in {
		color: var(--color-incoming);
	}
	.play {
		width: 84px;
	}
	.group {
		display: flex;
	}
	.group button {
		border-radius: 0;
		margin-left: -1px;
	}
	.group button:first-child {
		border-radius: 6px 0 0 6px;
	}
	.group button:last-child {
		border-radius: 0 6px 6px 0;
	}
</style>
