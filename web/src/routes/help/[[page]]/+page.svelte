<script lang="ts">
	import { page } from '$app/state';
	import { helpPages } from '$lib/shell/helpPages';
	import TopBar from '$lib/shell/TopBar.svelte';

	let shown = $derived(
		helpPages.find(({ name }) => name === (page.params as { page?: string }).page) ?? helpPages[0]
	);
</script>

<svelte:head><title>{shown?.title}, Idle Shimmer</title></svelte:head>
<TopBar />
<main class="help">
	<nav aria-label="Pages of the guide">
		<ul>
			{#each helpPages as { name, title } (name)}
				<li>
					<a href="/help/{name}" aria-current={name === shown?.name ? 'page' : undefined}>{title}</a
					>
				</li>
			{/each}
		</ul>
	</nav>
	<!-- eslint-disable-next-line svelte/no-at-html-tags -- the guide ships with the application -->
	<article>{@html shown?.html}</article>
</main>

<style>
	.help {
		display: grid;
		flex: 1;
		grid-template-columns: 200px minmax(0, 760px);
		gap: 32px;
		padding: 24px;
		overflow: auto;
	}
	nav a {
		display: block;
		padding: 4px 8px;
		border-left: 2px solid transparent;
		color: var(--color-quiet);
	}
	nav a[aria-current] {
		border-color: var(--color-seam);
		color: var(--color-ink);
	}
	article {
		font-size: 14px;
		line-height: 1.5;
	}
	article :global(h1) {
		margin-bottom: 12px;
		font-size: 22px;
		font-weight: 600;
	}
	article :global(h2) {
		margin: 20px 0 6px;
		font-size: 16px;
		font-weight: 600;
	}
	article :global(p),
	article :global(ul),
	article :global(ol),
	article :global(table) {
		margin: 8px 0;
	}
	article :global(ul) {
		padding-left: 20px;
		list-style: disc;
	}
	article :global(ol) {
		padding-left: 20px;
		list-style: decimal;
	}
	article :global(img) {
		max-width: 100%;
		margin: 12px 0;
		border: 1px solid var(--color-line);
		border-radius: 6px;
	}
	article :global(pre) {
		padding: 10px 12px;
		overflow-x: auto;
		border-radius: 6px;
		background: var(--color-panel);
	}
	article :global(code) {
		font-family: var(--font-mono);
		font-size: 12px;
	}
	article :global(td),
	article :global(th) {
		padding: 3px 16px 3px 0;
		text-align: left;
		vertical-align: top;
	}
	article :global(a) {
		text-decoration: underline;
	}
	@media (max-width: 760px) {
		.help {
			grid-template-columns: 1fr;
		}
	}
</style>
