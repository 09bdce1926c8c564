/** Version of the bridge, as docs/bridge.md describes it. */
export const BRIDGE_VERSION = 2;
/** Most messages of a batch, and most fixes of a message. */
export const MOST = 1000;
