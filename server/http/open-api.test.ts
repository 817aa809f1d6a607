import { createConfig, lintFromString, stringifyYaml } from '@redocly/openapi-core';
import { expect, it } from 'vitest';
import { apiOf } from '../api';
import type { Services } from '../portals/services';
import { openApiDocument } from './open-api';

/** No service is asked while endpoints are declared. */
const mounts = apiOf({ store: {} } as Services);

it('the document of the API is sound OpenAPI 3.1, as @redocly/openapi-core says', async () => {
  const config = await createConfig({
    extends: ['spec'],
    rules: {
      struct: 'error',
      'no-unresolved-refs': 'error',
      'operation-operationId-unique': 'error',
      'operation-parameters-unique': 'error',
      'path-parameters-defined': 'error',
      'security-defined': 'error',
      'no-ambiguous-paths': 'off',
      'no-identical-paths': 'error',
      'operation-summary': 'error',
    },
  });
  const lint = async (document: object) =>
    (await lintFromString({ source: stringifyYaml(document), config })).map(
      ({ message, location }) => `${message} ${location[0]?.pointer}`,
    );
  const document = openApiDocument(mounts);
  expect(await lint(document)).toEqual([]);
  // The same check finds what is wrong.
  expect(await lint({ ...document, info: {} })).not.toEqual([]);
}, 60_000);
