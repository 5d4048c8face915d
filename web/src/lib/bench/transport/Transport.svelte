<script lang="ts">
	// Window, playback, and what the picture shows.
	import { ButtonGroup } from 'flowbite-svelte';
	import type { Actions } from '$lib/bench/actions';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { blurPressed } from '$lib/ui/focus';
	import { MOST_RUN_UP, VIEWS } from '$lib/bench/view.svelte';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { fromCut, rounded, timecode } from '$lib/ui/numbers';
	import Select from '$lib/ui/Select.svelte';

	let { bench, actions }: { bench: Bench; actions: Actions } = $props();

	const SPEEDS = [
		{ speed: 1, name: '1' },
		{ speed: 0.5, name: '½' },
		{ speed: 0.25, name: '¼' }
	];
	let { transition, view, player } = $derived(bench);
	let seconds = $derived((transition.before + transition.after) / transition.rate);
	let beats = $derived(rounded((seconds * (transition.cut.beats_per_minute ?? 0)) / 60, 0.05));
	let inWindow = $derived(view.shown >= -transition.before && view.shown < transition.after);
</script>

<!-- svelte-ignore a11y_click_events_have_key_events -->
<div class="transport" role="toolbar" tabindex="-1" aria-label="Transport" onclick={blurPressed}>
	<div class="part">
		<span class="text-quiet">Window</span>
		<span class="figures">{transition.before} | {transition.after}</span>
		<span class="figures small seconds text-quiet"
			>{seconds.toFixed(2)} s{transition.cut.beats_per_minute ? `, ${beats} beats` : ''}</span
		>
		<Button
			low
			aria-label="Shorter window"
			tip={actions.shorter.tip}
			onclick={() => actions.shorter.run()}>−</Button
		>
		<Button
			low
			aria-label="Longer window"
			tip={actions.longer.tip}
			onclick={() => actions.longer.run()}>+</Button
		>
	</div>
	<div class="part middle">
		<Button
			low
			aria-label="One frame back"
			tip={actions.back.tip}
			onclick={() => actions.back.run()}>‹</Button
		>
		<output class="where figures" aria-label="Shown frame">
			<b class={view.shown < 0 ? 'text-outgoing' : 'text-incoming'}>{fromCut(view.shown)}</b>
			<span class="text-quiet"
				>{timecode(transition.cut.edit_frame + view.shown, transition.rate)}</span
			>
		</output>
		<Button
			low
			aria-label="One frame forward"
			tip={actions.forward.tip}
			onclick={() => actions.forward.run()}>›</Button
		>
		<Button low class="w-[84px]" tip={actions.play.tip} onclick={() => actions.play.run()}
			>{player.playing ? 'Stop' : 'Play loop'}</Button
		>
		<ButtonGroup aria-label="Playback speed">
			{#each SPEEDS as { speed, name }, n (speed)}
				<Button
					low
					class={n === 0
						? 'rounded-e-none'
						: n === 2
							? '-ms-px rounded-s-none'
							: '-ms-px rounded-none'}
					pressed={player.speed === speed}
					aria-label="Speed {name}"
					onclick={() => player.setSpeed(speed)}>{name}</Button
				>
			{/each}
		</ButtonGroup>
		<Button
			low
			pressed={player.sound.on}
			tip="Play the clips’ sound (M)"
			onclick={() => actions.sound.run()}>{player.sound.on ? 'Sound on' : 'Sound off'}</Button
		>
		<span class="small text-quiet">Run-up</span>
		<NumberField
			label="Run-up: frames before and after the window"
			value={view.wantedRunUp}
			low={0}
			high={MOST_RUN_UP}
			whole
			onchange={(frames) => view.setRunUp(frames)}
		/>
	</div>
	<div class="part end">
		{#if !inWindow}<span class="small text-quiet">Run-up: outside the window</span>{/if}
		<span class="small seconds text-quiet">View</span>
		<Select
			label="View"
			tip="What the picture shows. Hold H for the original, G for split"
			value={view.compare}
			items={VIEWS}
			onchange={(compare) => view.setCompare(compare)}
		/>
		{#if view.compare === 'split'}
			<NumberField
				label="Position of the split line"
				value={view.splitAt}
				unit="%"
				scale={100}
				low={0}
				high={1}
				step={0.01}
				rest={0.5}
				onchange={(share) => (view.splitAt = share)}
			/>
		{/if}
		<Button low pressed={view.large} tip={actions.large.tip} onclick={() => actions.large.run()}
			>{view.large ? 'Whole bench' : 'Large picture'}</Button
		>
	</div>
</div>

<style>
	.transport {
		display: grid;
		flex: none;
		grid-template-columns: 1fr auto 1fr;
		align-items: center;
		min-height: 36px;
		gap: 4px 12px;
		padding: 3px 16px;
		border-bottom: 1px solid var(--color-line);
		background: var(--color-panel);
	}
	.part {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 4px 8px;
		white-space: nowrap;
	}
	.end {
		justify-content: flex-end;
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
	@container (max-width: 1200px) {
		.seconds {
			display: none;
		}
		.transport {
			grid-template-columns: auto 1fr auto;
		}
		.middle {
			justify-content: center;
		}
	}
	@container (max-width: 1000px) {
		.transport {
			display: flex;
			flex-wrap: wrap;
			justify-content: space-between;
		}
	}
</style>
