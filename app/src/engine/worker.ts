import { bt709 } from '@inkavo/core/colour/transfer';
self.onmessage = (e) => self.postMessage(bt709.encode(e.data));
