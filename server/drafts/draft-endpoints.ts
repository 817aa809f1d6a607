import Joi from 'joi';
import type { Operation } from 'fast-json-patch';
import { toldOf, type DefinitionTold } from '../../core/definition/definition-told';
import { partsChanged, type PartChange } from '../../core/definition/parts-changed';
import { writeDefinition } from '../../core/definition/read';
import { writeAudit } from '../audit/audit';
import { atPortal, openDraft, type BenchServices } from '../bench/bench';
import { form, listOf } from '../http/answers';
import { endpoint, FileAnswer } from '../http/endpoint';
import { readDefinitionAside } from '../threads/aside';
import { definitionTold, partChange } from './definition-told';
import { changeDraft, stepDraft, type AdmitSources } from './draft';
import { draftAnswer } from './draft-answers';

const text = (max: number) => Joi.string().max(max);

const patchBody = Joi.object<{ revision: number; label: string; patch: Operation[] }>({
  revision: Joi.number().integer().required(),
  label: text(200).required(),
  patch: Joi.array()
    .items(
      Joi.object({
        op: Joi.valid('add', 'remove', 'replace', 'move', 'copy', 'test').required(),
        path: text(2000).allow('').required(),
        from: text(2000),
        value: Joi.any(),
      }),
    )
    .min(1)
    .max(2000)
    .required(),
});

/** A definition beside a draft. */
interface ComparedDefinition {
  told: DefinitionTold;
  parts: PartChange[];
}

/** The draft of a portal: changed by patches, undone and done again, taken out and applied as a file. */
export function draftEndpoints(services: BenchServices, admit: (builderId: number) => AdmitSources) {
  const { sequelize } = services.store;
  const entry = atPortal(services);
  const step = <S extends 'undo' | 'redo'>(which: S, says: string) =>
    endpoint({
      method: 'POST',
      path: `/draft/${which}`,
      says,
      entry,
      answers: { 200: draftAnswer },
      does: ({ portal, builder }) => stepDraft(sequelize, portal.id, builder.id, which, admit(builder.id)),
    });
  return {
    changeDraft: endpoint({
      method: 'PATCH',
      path: '/draft',
      says: 'Changes the draft by a JSON Patch (RFC 6902), if nobody else has changed it meanwhile.',
      entry,
      body: patchBody,
      answers: { 200: draftAnswer },
      does: ({ portal, builder, body: { revision, label, patch } }) =>
        changeDraft(sequelize, portal.id, builder.id, revision, label, patch, 'no change'),
    }),
    undo: step('undo', 'Takes the last change of the draft back.'),
    redo: step('redo', 'Makes the change again that was taken back last.'),
    definition: endpoint({
      method: 'GET',
      path: '/definition',
      says: "The draft's definition as a file.",
      entry: openDraft(services),
      answers: { 200: new FileAnswer('application/json') },
      does: ({ draft: { portal, definition }, res }) => {
        res.attachment(`${portal.slug}.portal.json`).type('json').send(writeDefinition(definition));
        return Promise.resolve();
      },
    }),
    compareDefinition: endpoint({
      method: 'POST',
      reads: true,
      path: '/definition/compare',
      says: 'Tells of a definition where it has its records, and which parts of it are other than in the draft.',
      entry: openDraft(services),
      body: Joi.any<unknown>(),
      answers: { 200: form<ComparedDefinition>({ told: definitionTold, parts: listOf(partChange) }) },
      does: async ({ draft, body }) => {
        const definition = await readDefinitionAside(body);
        return { told: toldOf(definition), parts: partsChanged(draft.definition, definition) };
      },
    }),
    applyDefinition: endpoint({
      method: 'PUT',
      path: '/definition',
      says: 'Applies a definition to the draft; without a revision, whatever the draft is by now.',
      entry,
      // Without a revision it is meant whatever the draft is by now, as from a command line.
      query: Joi.object<{ revision?: number }>({ revision: Joi.number().integer().min(0) }),
      body: Joi.any<unknown>(),
      answers: { 200: draftAnswer },
      does: async ({ portal, builder, signed, query: { revision = portal.revision }, body }) => {
        const definition = await readDefinitionAside(body);
        const state = await changeDraft(
          sequelize,
          portal.id,
          builder.id,
          revision,
          'Apply a definition',
          [{ op: 'replace', path: '', value: definition }],
          admit(builder.id),
        );
        await writeAudit(
          portal.id,
          signed,
          'applied a definition',
          `to the draft, which has the revision ${state.revision} now`,
        );
        return state;
      },
    }),
  };
}
