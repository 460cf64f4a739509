import { nextTick } from 'vue';

/**
 * Waits until the page has stood still for three turns: a fixed pause is too short on a busy machine, and the parts draw in
 * several turns (an event, an answer, a list that opens).
 */
export async function quiet(pause = 10): Promise<void> {
  let still = 0;
  let before = document.body.innerHTML;
  for (let turn = 0; turn < 200 && still < 3; turn++) {
    for (let i = 0; i < 4; i++) await nextTick();
    await new Promise((resolve) => setTimeout(resolve, pause));
    const now = document.body.innerHTML;
    still = now === before ? still + 1 : 0;
    before = now;
  }
}
