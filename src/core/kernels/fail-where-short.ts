import { onShort } from './arena';

/** For tests: where an evaluation has reckoned with too little room, the slow way that follows is an error. */
export const failWhereShort = (): void =>
  onShort((bytes) => {
    throw new Error(`There is no room for ${bytes} bytes in the kernels’ memory.`);
  });

failWhereShort();
