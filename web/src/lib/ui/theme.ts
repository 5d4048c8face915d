// How the component library looks here: its sizes and shapes; its colours are the names in app.css.
import type { ThemeConfig } from 'flowbite-svelte';

const FIELD = 'h-[26px] rounded-md border-edge bg-page px-2 py-0 text-[12px] text-ink';

export const theme: ThemeConfig = {
	buttonGroup: 'inline-flex rounded-md shadow-none',
	modal: {
		base: 'w-[calc(100%-48px)] border border-edge text-ink backdrop:bg-black/60',
		header: 'p-3 md:p-3 text-[15px]',
		body: 'p-3 md:p-3 text-ink'
	},
	select: { base: 'w-auto', select: `${FIELD} h-[24px] pr-7 pl-2` },
	input: { base: 'w-auto', input: `${FIELD} w-full` },
	checkbox: { base: 'me-0 h-4 w-4 border-edge bg-page', div: 'gap-2' },
	toggle: {
		label: 'gap-0 text-[12px] font-normal text-ink',
		span: 'me-2 border border-edge bg-page after:border-edge after:bg-quiet peer-checked:bg-seam peer-checked:after:bg-page peer-focus:ring-0 peer-focus-visible:outline-2 peer-focus-visible:outline-offset-1 peer-focus-visible:outline-seam'
	},
	progressbar: { base: 'border border-edge bg-page', inside: 'bg-seam' },
	dropzone: 'h-24 gap-1 rounded-md border border-edge bg-page hover:border-seam hover:bg-surround',
	kbd: 'rounded border-edge bg-page px-1.5 py-0.5 font-mono text-[11px] font-normal text-ink',
	toolbar: { base: 'rounded-none bg-panel p-0', content: 'w-full' },
	toast: { base: 'w-full max-w-none border border-edge bg-panel p-3 text-ink shadow-lg' }
};
