import Joi from 'joi';
import { said } from '../../server/http/answers';
import type { SectionServe } from '../serve';
import { heights, type FrameHeight, type OutsideSection } from './spec';

export interface OutsideTold {
  address: string;
  shows: string;
  height: FrameHeight;
}

declare module '../serve' {
  interface SectionTold {
    outside: OutsideTold;
  }
}

export const serve: SectionServe<OutsideSection, OutsideTold> = {
  tell: (_visit, { address, shows, height }) => Promise.resolve({ address, shows, height }),
  told: { address: said.allow(''), shows: said.allow(''), height: Joi.valid(...heights) },
};
