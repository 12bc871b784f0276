import { useSyncExternalStore } from 'react';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/**
 * Says when what is heard may still differ a little from the render: the chain remembers more of what came before than it was
 * let hear. Goes by itself. What is heard aside is of no render.
 */
export function Exactness() {
  const { player, lengthFrames } = useWorkbench();
  const aside = useApp(({ listening }) => listening.aside);
  const known = useSyncExternalStore(
    (call) => player.subscribe(call),
    () => (player.exact ? -1 : Math.round((100 * Math.min(player.knownFrames, lengthFrames)) / Math.max(1, lengthFrames))),
  );
  if (known < 0 || aside) return null;
  return (
    <p
      data-not-exact
      role="status"
      className="shrink-0 text-[12px] leading-tight whitespace-nowrap text-soft"
      title="Some treatments go by all that came before (noise, hum, levels of a voice). The track is being listened through for them; until then, what is heard from here may differ a little from the render."
    >
      not exact yet
      <br />
      {known} % listened through
    </p>
  );
}
