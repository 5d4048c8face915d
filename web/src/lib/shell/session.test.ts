import { describe, expect, it } from 'vitest';
import { initials, returnAddress, signInAddress } from './session';

const to = (address: string) => returnAddress(new URLSearchParams({ to: address }));

describe('after signing in', () => {
	it('returns to where the reader was', () => {
		const address = signInAddress({ pathname: '/cuts/7', search: '?frame=2' });
		expect(returnAddress(new URL(address, 'http://localhost').searchParams)).toBe(
			'/cuts/7?frame=2'
		);
	});

	it('still does where a second request is refused meanwhile', () => {
		const once = signInAddress({ pathname: '/renders', search: '' });
		const { pathname, search } = new URL(once, 'http://localhost');
		expect(signInAddress({ pathname, search })).toBe(once);
	});

	it('never leads to another website, nor to itself', () => {
		for (const foreign of ['https://a.example', '//a.example', '/\\a.example', 'javascript:1', ''])
			expect(to(foreign)).toBe('/');
		expect(to('/sign-in?to=/')).toBe('/');
		expect(returnAddress(new URLSearchParams())).toBe('/');
	});
});

it('a name is one or two letters', () => {
	expect(['Harbour desk', 'ana', 'Ana van der Meer', '港 夜', ''].map(initials)).toEqual([
		'HD',
		'A',
		'AM',
		'港夜',
		''
	]);
});
