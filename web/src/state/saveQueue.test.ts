import { describe, expect, test } from 'vitest';
import { SaveQueue, type Answer } from './saveQueue.svelte';

const refused = (status: number, after = '1'): Answer => ({
  error: { status },
  response: new Response('', { status, headers: { 'Retry-After': after } }),
});
const saved: Answer = { data: 1, response: new Response('', { status: 200 }) };

function queue() {
  const pauses: number[] = [];
  const made = new SaveQueue((ms) => {
    pauses.push(ms);
    return Promise.resolve();
  });
  return { made, pauses };
}

describe('a change on its way', () => {
  test('waits for as long as the server says, and is sent again', async () => {
    const { made, pauses } = queue();
    const answers = [refused(503, '2'), refused(503, '3'), saved];
    const found = await made.answer(() => Promise.resolve(answers.shift() as Answer));
    expect(found).toBe(saved);
    expect(pauses).toEqual([2000, 3000]);
    expect(made.waiting).toBe('');
  });

  test('waits longer and longer where nobody answers, and says so', async () => {
    const { made, pauses } = queue();
    let told = '';
    let tries = 0;
    await made.answer(() => {
      told = made.waiting;
      tries += 1;
      return tries < 8 ? Promise.reject(new TypeError('Failed to fetch')) : Promise.resolve(saved);
    });
    expect(told).toBe('the server does not answer');
    expect(pauses).toEqual([500, 1000, 2000, 4000, 8000, 8000, 8000]);
  });

  test.each([409, 412, 422, 500])('is not sent again after %i', async (status) => {
    const { made, pauses } = queue();
    expect((await made.answer(() => Promise.resolve(refused(status)))).response?.status).toBe(status);
    expect(pauses).toEqual([]);
  });

  test('waits for those before it, whatever becomes of them', async () => {
    const { made } = queue();
    const order: number[] = [];
    void made
      .run(async () => {
        await Promise.resolve();
        order.push(1);
        throw new Error('lost');
      })
      .catch(() => undefined);
    await made.run(() => Promise.resolve(void order.push(2)));
    expect(order).toEqual([1, 2]);
    await made.settled();
    expect(made.length).toBe(0);
  });
});
