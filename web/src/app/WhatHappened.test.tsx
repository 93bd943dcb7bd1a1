import { screen } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { ApiFailure } from '../api/client';
import { show } from '../testing/show';
import { reportOf, WhatHappened } from './WhatHappened';

const fault = new ApiFailure(500, 'fault', 'Something broke inside Sapolin.', [], 'ab12cd34');

describe('what happened', () => {
  it('is told with the reference of the log, the time and the place, and nothing that was typed', () => {
    const report = reportOf(fault, new Date('2031-05-10T12:00:00Z'), '/batches/b1');
    expect(report).toContain('2031-05-10T12:00:00.000Z\non /batches/b1\nSomething broke inside Sapolin.\nfault ab12cd34');
    expect(reportOf(new TypeError('x is undefined'), new Date(0), '/')).toContain('x is undefined\nno reference');
  });

  it('is offered to copy for a fault, and not for a refusal', async () => {
    const { unmount } = await show(<WhatHappened error={fault} />);
    expect(screen.getByText('Reference ab12cd34')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Copy what happened' })).toBeTruthy();
    unmount();
    await show(<WhatHappened error={new ApiFailure(422, 'backup', 'There is no backup.')} />);
    expect(screen.queryByTestId('what-happened')).toBeNull();
  });
});
