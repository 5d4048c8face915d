<script lang="ts">
	// The bar at the top of every screen but the bench.
	import type { Snippet } from 'svelte';
	import { page } from '$app/state';
	import AccountMenu from './AccountMenu.svelte';
	import ActivityMenu from './ActivityMenu.svelte';

	let { children }: { children?: Snippet } = $props();

	const places = [
		{ href: '/', name: 'Edits' },
		{ href: '/renders', name: 'Renders' },
		{ href: '/help', name: 'Help' }
	];
</script>

<header
	class="flex min-h-11 shrink-0 flex-wrap items-center justify-end gap-x-2 gap-y-1 border-b border-line bg-panel px-4 py-1 whitespace-nowrap min-[1200px]:gap-x-4"
>
	<a href="/" class="mr-1 flex items-center gap-2 py-1 font-semibold">
		<img src="/mark.svg" alt="" class="h-5 w-5" />Idle Shimmer
	</a>
	<nav class="mr-auto flex gap-3" aria-label="Places">
		{#each places as { href, name } (href)}
			<a
				{href}
				class="border-b-2 py-1 {page.url.pathname === href
					? 'border-seam text-ink'
					: 'border-transparent text-quiet hover:text-ink'}"
				aria-current={page.url.pathname === href ? 'page' : undefined}>{name}</a
			>
		{/each}
	</nav>
	{@render children?.()}
	{#if !children}<span class="flex-1"></span>{/if}
	<ActivityMenu />
	<AccountMenu />
</header>
