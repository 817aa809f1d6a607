import type { Request, Response } from 'express';
import type { PortalDefinition } from '../../core/definition/definition';
import { sourceName } from '../../core/definition/sources';
import { Problem } from '../../core/refusals/problem';
import type { Opened } from '../definitions/definitions';
import type { CoreServices } from '../definitions/portal-services';
import { Portal, type Builder } from '../store/models';

/** A portal's draft, with the source of its tables opened. */
export interface OpenDraft extends Opened {
  portal: Portal;
  definition: PortalDefinition;
}

type Needed = Pick<CoreServices, 'definitions' | 'sources'> & {
  connections: { refuseOthersPortal(portalId: number, builderId: number): Promise<void> };
};

/** What every route of the workplace begins with: who is signed in, which portal is meant, and its draft. */
export class Bench {
  constructor(private readonly services: Needed) {}

  builder(res: Response): Builder {
    return res.locals.builder as Builder;
  }

  /** The builder as the audit log names them. */
  signed(res: Response): string {
    const { name, email } = this.builder(res);
    return `${name} <${email}>`;
  }

  /** The portal of the address; a Problem 404 where there is none, 403 where its connection is other builders'. */
  async portalOf(req: Request): Promise<Portal> {
    const portal = await Portal.findOne({ where: { slug: String(req.params.slug) } });
    if (!portal) throw new Problem(404, 'not-found', 'There is no such portal.');
    await this.services.connections.refuseOthersPortal(portal.id, this.builder(req.res!).id);
    return portal;
  }

  async draftOf(req: Request): Promise<OpenDraft> {
    const portal = await this.portalOf(req);
    const definition = await this.services.definitions.draft(portal);
    return { portal, definition, ...(await this.services.sources.of(definition)) };
  }

  /** The draft at the source that holds a table. */
  async draftAt(req: Request, table: string): Promise<OpenDraft> {
    const draft = await this.draftOf(req);
    return draft.elsewhere ? { ...draft, ...(await draft.elsewhere(sourceName(draft.definition, table))) } : draft;
  }
}
