/** The shelf of looks: what is on it, taking one into the shot, and putting one there. */
import { client, type Operation, type ShelfLook } from '../api/client';
import { bench } from '../state/bench.svelte';
import { notices } from '../state/notices.svelte';
import { shot } from '../state/shot.svelte';
import { newerThan } from './listing';

class Shelf {
  looks = $state.raw<ShelfLook[]>([]);

  async load(): Promise<void> {
    const { data } = await client.GET('/api/shelf');
    if (data) this.looks = data.looks;
  }

  /** What is on the shelf in a newer version than a look is linked to. */
  newer(link: { name: string; version: number } | null | undefined): ShelfLook | null {
    return newerThan(this.looks, link);
  }

  /** Take a look into the shot; where `instead` names one of the shot's, its layers are replaced. Gives the name that it has there. */
  async take(name: string, linked: boolean, instead = ''): Promise<string | null> {
    await shot.settled();
    const { data, error } = await client.POST('/api/shelf/{name}/take', {
      params: { path: { name } },
      body: { shot: shot.id, linked, instead },
    });
    if (!data) {
      notices.say(
        'error',
        `“${name}” was not taken`,
        (error as { detail?: string } | undefined)?.detail ?? '',
      );
      return null;
    }
    const patch = data.patch as unknown as Operation[];
    await shot.commit(patch, instead ? `the newer ${name} from the shelf` : `take ${name} from the shelf`);
    bench.openLook(data.look);
    return data.look;
  }

  async put(look: string, name: string, tags: string[], note: string): Promise<boolean> {
    await shot.settled();
    const { data, error } = await client.PUT('/api/shelf/{name}', {
      params: { path: { name } },
      body: { shot: shot.id, look, tags, note },
    });
    if (!data) {
      const said = error as { detail?: string; problems?: { reason: string }[] } | undefined;
      notices.say(
        'error',
        `“${look}” was not put on the shelf`,
        said?.detail || (said?.problems?.[0]?.reason ?? ''),
      );
      return false;
    }
    await this.load();
    notices.say('info', `“${name}” is on the shelf`, `version ${data.version}; its picture is being made`);
    return true;
  }

  async takeOff(name: string): Promise<void> {
    const { error } = await client.DELETE('/api/shelf/{name}', { params: { path: { name } } });
    if (error)
      notices.say('error', `“${name}” stays on the shelf`, (error as { detail?: string }).detail ?? '');
    await this.load();
  }
}

export const shelf = new Shelf();
