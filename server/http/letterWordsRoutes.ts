import type { Almanac } from '../almanac.ts';
import { testWords, tryWords } from '../notices/tryWords.ts';
import { changeWords, eventNamed, listWords, readWords } from '../notices/words.ts';
import { changeWordsSchema, testWordsSchema, tryWordsSchema, wordsQuery } from '../notices/wordsMessages.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';

/** The words of letters: read, changed, tried on a customer and sent as a test. */
export function letterWordsRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  routes.add('get', '/api/letter-words', { may, answer: () => listWords(almanac) });
  routes.add('get', '/api/letter-words/:event', {
    may,
    query: wordsQuery,
    answer: ({ params, query }) => readWords(almanac, eventNamed(params.event ?? ''), query.language),
  });
  routes.add('put', '/api/letter-words/:event', {
    may: WRITERS,
    did: 'changed the words of a letter',
    body: changeWordsSchema,
    answer: ({ params, body }) => changeWords(almanac, eventNamed(params.event ?? ''), body),
  });
  routes.add('post', '/api/letter-words/:event/try', {
    may,
    did: 'tried the words of a letter',
    changesNothing: true,
    body: tryWordsSchema,
    answer: ({ params, body }) => tryWords(almanac, eventNamed(params.event ?? ''), body),
  });
  routes.add('post', '/api/letter-words/:event/test', {
    may: WRITERS,
    did: 'sent a letter as a test',
    body: testWordsSchema,
    answer: ({ params, body }) => testWords(almanac, eventNamed(params.event ?? ''), body),
  });
}
