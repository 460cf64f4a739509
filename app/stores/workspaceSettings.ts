import { defineStore } from 'pinia';
import type { WorkspaceSettings } from '~~/core/contract/people.ts';
import { setFormats } from '~~/core/values/show.ts';

/** Until they are read: as of a workspace where nobody changed them. */
export const UNREAD: WorkspaceSettings = {
  name: 'Brisk Acorn',
  zone: null,
  dates: 'dayFirst',
  grouping: 'comma',
  workingDays: [1, 2, 3, 4, 5],
  holidays: null,
};

/** How the workspace is called, and how it writes days and numbers; read when somebody signs in. */
export const useWorkspaceSettings = defineStore('workspaceSettings', () => {
  const settings = shallowRef<WorkspaceSettings>(UNREAD);
  const zones = shallowRef<readonly string[]>([]);
  function take(now: WorkspaceSettings): void {
    settings.value = now;
    setFormats(now);
  }
  async function load(): Promise<void> {
    // without them the screens work all the same
    const answer = await api.workspace.read().catch(() => null);
    if (!answer) return;
    const { zones: offered, ...now } = answer;
    zones.value = offered;
    take(now);
  }
  /** Changes them for everybody. Throws ApiError. */
  async function save(to: WorkspaceSettings): Promise<void> {
    take(await api.workspace.change(to));
  }
  const name = computed(() => settings.value.name);
  return { settings, zones, name, load, save };
});
