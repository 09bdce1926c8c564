import type { BrowserPositioning } from './browser-positioning.js';

/**
 * Calls back when the permission changes, and when the page becomes visible: the user may be back from the settings.
 * Returns the function that ends this.
 */
export function accessChanges(positioning: BrowserPositioning, listener: () => void): () => void {
  if (!positioning.supported) return () => {};
  let open = true;
  let held: PermissionStatus | undefined;
  const changed = () => {
    positioning.forgetRefusal();
    listener();
  };
  const seen = () => {
    if (document.visibilityState === 'visible') listener();
  };
  void positioning.permissionStatus().then((found) => {
    held = found;
    if (open) held?.addEventListener('change', changed);
  });
  document.addEventListener('visibilitychange', seen);
  return () => {
    open = false;
    held?.removeEventListener('change', changed);
    document.removeEventListener('visibilitychange', seen);
  };
}
