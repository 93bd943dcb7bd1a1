import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { silence } from '../testing/network';
import { show } from '../testing/show';
import { Shelf } from './Shelf';

const shelf = () => show(<Shelf />, { at: '/shelf', route: '/shelf' });
type Hands = Awaited<ReturnType<typeof shelf>>['user'];

async function newMaterial(user: Hands, name: string, kind: RegExp) {
  await user.click(await screen.findByTestId('new-material'));
  const dialog = await screen.findByRole('dialog');
  await user.clear(within(dialog).getByTestId('material-name'));
  await user.type(within(dialog).getByTestId('material-name'), name);
  const select = within(dialog).getByTestId<HTMLSelectElement>('material-kind');
  const option = [...select.options].find((one) => kind.test(one.textContent ?? ''));
  await user.selectOptions(select, option?.value ?? '');
  return dialog;
}

describe('the shelf', () => {
  it('shows what the workshop has of its own', async () => {
    await shelf();
    const materials = await screen.findByTestId('materials');
    await waitFor(() => expect(materials.textContent).toContain('Hard master'));
  });

  it('takes a material by its SAP value, and says what it calculates as', async () => {
    const { user } = await shelf();
    const dialog = await newMaterial(user, 'Mountain walnut', /SAP/);
    const sap = within(dialog).getAllByRole<HTMLInputElement>('textbox').find((box) => /sap/i.test(box.dataset.testid ?? ''));
    await user.clear(sap as HTMLElement);
    await user.type(sap as HTMLElement, '190');
    await waitFor(() => expect(within(dialog).getByTestId('material-outcome').textContent).toContain('190.0'));
    await waitFor(() => expect(screen.getByTestId<HTMLButtonElement>('keep-material').disabled).toBe(false));
    await user.click(screen.getByTestId('keep-material'));
    await waitFor(() => expect(screen.getByTestId('materials').textContent).toContain('Mountain walnut'));
  });

  it('offers the unit that a SAP value seems to be in, and takes it only when told', async () => {
    const { user } = await shelf();
    const dialog = await newMaterial(user, 'Told by NaOH', /SAP/);
    const sap = within(dialog).getAllByRole<HTMLInputElement>('textbox').find((box) => /sap/i.test(box.dataset.testid ?? '')) as HTMLInputElement;
    await user.clear(sap);
    await user.type(sap, '0.135');
    const offer = await within(dialog).findByRole('button', { name: /^Take / }, { timeout: 4000 });
    expect(Number(sap.value)).toBeCloseTo(0.135, 6);
    await user.click(offer);
    // 0.135 g NaOH per g is 189.4 mg KOH per g.
    expect(Number(sap.value)).toBeGreaterThan(185);
    expect(Number(sap.value)).toBeLessThan(195);
  });

  it('keeps what was typed when the server will not have it', async () => {
    const { user } = await shelf();
    const dialog = await newMaterial(user, 'Not kept yet', /SAP/);
    const sap = within(dialog).getAllByRole<HTMLInputElement>('textbox').find((box) => /sap/i.test(box.dataset.testid ?? '')) as HTMLInputElement;
    await user.clear(sap);
    await user.type(sap, '188');
    await waitFor(() => expect(screen.getByTestId<HTMLButtonElement>('keep-material').disabled).toBe(false));
    silence(1, 'before', (request) => request.method === 'POST' && request.url.endsWith('/api/materials'));
    await user.click(screen.getByTestId('keep-material'));
    expect((await within(dialog).findByRole('alert')).textContent).toMatch(/does not answer/);
    expect(within(dialog).getByTestId<HTMLInputElement>('material-name').value).toBe('Not kept yet');
    await user.click(screen.getByTestId('keep-material'));
    await waitFor(() => expect(screen.getByTestId('materials').textContent).toContain('Not kept yet'));
  });
});

describe('prices', () => {
  it('are kept as they are typed, the last one last', async () => {
    const { user } = await shelf();
    const price = await screen.findByTestId<HTMLInputElement>('price-coconut');
    await user.clear(price);
    await user.type(price, '7.25');
    expect(price.value).toBe('7.25');
    await waitFor(async () => expect(await answered(api.GET('/api/prices'))).toMatchObject({ coconut: 7.25 }));
  });

  it('that cannot be are refused, and the one before is shown again', async () => {
    const { user } = await shelf();
    const price = await screen.findByTestId<HTMLInputElement>('price-castor');
    const before = (await answered(api.GET('/api/prices'))).castor;
    await user.clear(price);
    await waitFor(async () => expect(await answered(api.GET('/api/prices'))).not.toHaveProperty('castor'));
    await user.type(price, '-4');
    expect(await screen.findByRole('alert')).toBeTruthy();
    expect(before).toBeGreaterThan(0);
    expect(await answered(api.GET('/api/prices'))).not.toMatchObject({ castor: -4 });
  });

  it('are added by an oil’s name', async () => {
    const { user } = await shelf();
    await user.type(await screen.findByTestId('add-price'), 'jojoba');
    await user.keyboard('{Enter}');
    expect(await screen.findByTestId('price-jojoba')).toBeTruthy();
  });
});
