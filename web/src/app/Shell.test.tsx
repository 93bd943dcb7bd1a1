import { screen, waitFor, within } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { ownFormula } from '../testing/kitchen';
import { silence } from '../testing/network';
import { address, show } from '../testing/show';
import { useSettings } from './settings';
import { Shell } from './Shell';
import { useTemperature } from '../design/temperature';
import { useWeights } from '../design/units';

function Weighed() {
  const { letterShortcuts } = useSettings();
  return (
    <p data-testid="weighed">
      {useWeights().tell(1000)}, {useTemperature().format(40)} {useTemperature().unit}, {letterShortcuts ? 'letters' : 'no letters'}
    </p>
  );
}

const shell = (at = '/') =>
  show(
    <Routes>
      <Route element={<Shell />}>
        <Route path="*" element={<Weighed />} />
      </Route>
    </Routes>,
    { at, route: '*' },
  );

const weighed = () => (screen.getByTestId('weighed').textContent ?? '').replaceAll('\u00a0', ' ');

describe('the frame around every screen', () => {
  it('leads to the places of the workshop, at the top and at the thumb', async () => {
    const { user } = await shell('/formulas');
    for (const name of ['Places', 'Places, at hand']) {
      const places = within(screen.getByRole('navigation', { name }));
      expect(places.getAllByRole('link').map((link) => link.textContent)).toEqual(['Today', 'Formulas', 'Batches', 'Stock', 'Guide']);
      expect(places.getByRole('link', { current: 'page' }).textContent).toBe('Formulas');
    }
    await user.click(within(screen.getByRole('navigation', { name: 'Places' })).getByRole('link', { name: 'Stock' }));
    expect(address()).toBe('/stock');
  });

  it('weighs in the unit chosen, everywhere and from then on', async () => {
    const { user, unmount } = await shell();
    expect(weighed()).toMatch(/^1 ?000 g, 40 °C/);
    await user.click(screen.getByRole('button', { name: /weights in grams/ }));
    await user.click(await screen.findByRole('menuitem', { name: 'ounces (oz)' }));
    await user.click(screen.getByRole('button', { name: /weights in ounces/ }));
    await user.click(await screen.findByRole('menuitem', { name: '°F' }));
    expect(weighed()).toMatch(/^35\.27 oz, 104 °F/);
    unmount();
    await shell();
    expect(weighed()).toMatch(/^35\.27 oz, 104 °F/);
  });

  it('finds a formula by name from anywhere', async () => {
    const name = `Sought ${crypto.randomUUID().slice(0, 6)}`;
    const { id } = await ownFormula(name);
    const { user } = await shell('/batches');
    await user.click(screen.getByRole('button', { name: /Find or do/ }));
    await user.type(await screen.findByRole('textbox', { name: 'Find or do' }), name);
    await user.click(await screen.findByText((_, element) => element?.tagName === 'BUTTON' && (element.textContent ?? '').startsWith(name)));
    expect(address()).toBe(`/formulas/${id}`);
  });

  it('does what is asked of it by name', async () => {
    const { user } = await shell();
    await user.click(screen.getByRole('button', { name: /Find or do/ }));
    await user.type(await screen.findByRole('textbox', { name: 'Find or do' }), 'pounds');
    await user.keyboard('{Enter}');
    await waitFor(() => expect(weighed()).toMatch(/^2\.205 lb/));
  });

  it('lists its shortcuts, and can do without single letters', async () => {
    const { user } = await shell();
    await user.keyboard('{Shift>}?{/Shift}');
    const dialog = within(await screen.findByRole('dialog'));
    expect(dialog.getByText('Find or do')).toBeTruthy();
    await user.click(dialog.getByRole('switch'));
    await waitFor(() => expect(weighed()).toContain('no letters'));
  });

  it('changes its theme, and says which comes next', async () => {
    const { user } = await shell();
    await user.click(screen.getByRole('button', { name: 'Use the dark theme' }));
    expect(await screen.findByRole('button', { name: 'Use the light theme' })).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Use the light theme' }));
  });

  it('says that the demo is a demo, and when it could not be reset', async () => {
    const { user } = await shell();
    const before = (await answered(api.GET('/api/formulas'))).total;
    silence(1, 'before', (request) => request.url.endsWith('/api/demo/reset'));
    await user.click(await screen.findByRole('button', { name: /^demo: Juniper Ridge/ }));
    await user.click(await screen.findByRole('menuitem', { name: /^Reset/ }));
    expect((await screen.findByText(/does not answer/)).closest('[role=alert]')).toBeTruthy();
    await waitFor(() => expect(screen.queryByText(/is put back/)).toBeNull());
    expect((await answered(api.GET('/api/formulas'))).total).toBe(before);
  });
});
