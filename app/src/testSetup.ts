globalThis.localStorage?.clear();
