/* Read before the server (--import): keeps the longest time in which its main thread did nothing else, and says it when it is asked to. */
import { writeFileSync } from 'node:fs';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import process from 'node:process';
import { isMainThread } from 'node:worker_threads';

if (isMainThread) {
  const delay = monitorEventLoopDelay({ resolution: 1 });
  delay.enable();
  process.on('SIGUSR2', () => {
    const ms = (nanoseconds) => nanoseconds / 1e6;
    const told = { p50: ms(delay.percentile(50)), p99: ms(delay.percentile(99)), longest: ms(delay.max) };
    writeFileSync(process.env.BENCH_BLOCKS, JSON.stringify(told));
    delay.reset();
  });
}
