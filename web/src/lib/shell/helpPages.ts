// The pages of docs/guide, as the help shows them.
import { marked } from 'marked';

const texts: Record<string, string> = import.meta.glob('../../../../docs/guide/*.md', {
	query: '?raw',
	import: 'default',
	eager: true
});
const pictures: Record<string, string> = import.meta.glob('../../../../docs/screenshots/*.png', {
	query: '?url',
	import: 'default',
	eager: true
});

export type HelpPage = { name: string; title: string; html: string };

function stem(path: string): string {
	return path.replace(/^.*\//, '').replace(/\.\w+$/, '');
}

const pictureOf = Object.fromEntries(
	Object.entries(pictures).map(([path, address]) => [stem(path), address])
);

/** A page as HTML: pictures from the application itself, links from page to page. */
function rendered(text: string): string {
	const html = marked.parse(text, { async: false });
	return html
		.replace(
			/src="[^"]*screenshots\/([\w-]+)\.png"/g,
			(_, name: string) => `src="${pictureOf[name] ?? ''}"`
		)
		.replace(/href="(?!https?:)([\w-]+)\.md"/g, 'href="/help/$1"')
		.replace(/<a href="\.\.[^"]*">([^<]*)<\/a>/g, '$1');
}

/** Every page, the introduction first. */
export const helpPages: HelpPage[] = Object.entries(texts)
	.map(([path, text]) => ({
		name: stem(path),
		title: /^# (.*)$/m.exec(text)?.[1] ?? stem(path),
		html: rendered(text)
	}))
	.sort(
		(a, b) => Number(b.name === 'start') - Number(a.name === 'start') || (a.name < b.name ? -1 : 1)
	);
