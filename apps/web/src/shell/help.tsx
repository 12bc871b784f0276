import { Dialog } from '../components/dialog.js';
import { shortcuts } from './shortcuts.js';

const groups = [...new Set(shortcuts.map(({ group }) => group))];

export function Help({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  return (
    <Dialog open={open} title="Keys" onClose={onClose}>
      <div className="columns-2 gap-6">
        {groups.map((group) => (
          <section key={group} className="mb-4 break-inside-avoid">
            <h3 className="m-0 mb-1 text-[12px] font-normal text-soft">{group}</h3>
            <dl className="m-0">
              {shortcuts
                .filter((item) => item.group === group)
                .map(({ keys, does }) => (
                  <div key={keys} className="flex gap-2 border-t border-faint py-1">
                    <dt className="w-[76px] shrink-0">
                      <span className="key">{keys}</span>
                    </dt>
                    <dd className="m-0">{does}</dd>
                  </div>
                ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  );
}
