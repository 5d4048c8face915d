<script lang="ts">
	// A box to tick, with the look that the component library's plugin gives to every box. Rows of
	// long lists have one each: the library's own component takes several times as long to draw.
	type Props = { label: string; checked: boolean; onchange: (checked: boolean) => void };
	let { label, checked, onchange }: Props = $props();
</script>

<label class="target">
	<input
		type="checkbox"
		class="h-4 w-4 rounded-sm border-edge bg-page text-primary-600 focus:ring-0"
		aria-label={label}
		{checked}
		onchange={(event) => onchange(event.currentTarget.checked)}
	/>
</label>

<style>
	.target {
		display: inline-flex;
		align-items: center;
		justify-content: center;
		min-width: 24px;
		min-height: 24px;
	}
</style>
