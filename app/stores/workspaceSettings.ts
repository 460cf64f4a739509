import { defineStore } from 'pinia';
import { type WorkspaceSettings, workspaceSchema } from '~~/core/contract/people.ts';
import { setFormats } from '~~/core/values/show.ts';

/** How the workspace is called, and how it writes days and numbers; read when somebody signs in. */
export const useWorkspaceSettings = defineStore('workspaceSettings', () => {
  const settings = shallowRef<WorkspaceSettings>(workspaceSchema.parse({}));
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
