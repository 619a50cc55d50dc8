/** How the queue says things. */
import type { Estimate, Render } from '../api/client';

/** Seconds as people say them: 8 s, 3 min, 2 h 5 min. */
export function duration(seconds: number): string {
  if (seconds < 60) return `${Math.max(Math.round(seconds), 0)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  return minutes % 60 ? `${Math.floor(minutes / 60)} h ${minutes % 60} min` : `${minutes / 60} h`;
}

/** Frames in the way that an order takes them: 1-4,9. */
export function ranges(frames: number[]): string {
  const parts: [number, number][] = [];
  for (const frame of [...frames].sort((a, b) => a - b)) {
    const last = parts.at(-1);
    if (last && frame === last[1] + 1) last[1] = frame;
    else parts.push([frame, frame]);
  }
  return parts.map(([first, last]) => (first === last ? `${first}` : `${first}-${last}`)).join(',');
}

/** Where an order stands, in a few words. */
export function standing(render: Render): string {
  const { done = 0, failed = 0, stopped = 0, running = 0 } = render.counts;
  const all = render.frames.length;
  const amiss = failed ? `, ${failed} failed` : '';
  if (render.over && done === all) return all === 1 ? 'done' : `all ${all} done`;
  if (render.over) return `${done} of ${all} done${amiss}${stopped ? ', stopped' : ''}`;
  if (render.state === 'paused') return `paused at ${done} of ${all}${amiss}`;
  const left = render.left === null ? '' : `, about ${duration(render.left)} left`;
  return running ? `${done} of ${all} done${amiss}${left}` : `${done} of ${all} done${amiss}, waiting`;
}

/** What an order would take, in a sentence. */
export function expected(estimate: Estimate): string {
  const [low = 0, , high = 0] = estimate.frame;
  const [least, most] = [duration(low), duration(high)];
  const each = least === most ? `about ${most}` : `${least} to ${most}`;
  const workers = estimate.workers === 1 ? '1 worker' : `${estimate.workers} workers`;
  const all =
    estimate.frames > 1 ? ` a frame, ${duration(estimate.total)} for ${estimate.frames} by ${workers}` : '';
  const disk = estimate.disk < 1 ? 'less than 1' : Math.round(estimate.disk).toLocaleString('en');
  return `${each}${all}; ${Math.round(estimate.memory).toLocaleString('en')} MB of memory, ${disk} MB on disk`;
}
