import { expect, test } from 'vitest';
import { safeText } from './formattedText.ts';
import { plainText } from './plainText.ts';

const PICTURE = '/pictures/0123456789abcdef0123456789abcdef';

test('nothing but formatting is left of a formatted text', () => {
  const kept = `<h2>Row</h2><p>A <strong>bold</strong> <em>word</em></p><ul><li><p>one</p></li></ul><img src="${PICTURE}" alt="A row"><a href="https://fen.example/">more</a>`;
  expect(safeText(kept)).toBe(kept);
  expect(safeText('<p onclick="x()" style="color:red" class="c">a<script>alert(1)</script></p>')).toBe(
    '<p>a</p>',
  );
  expect(safeText('<a href="javascript:alert(1)">a</a>')).toBe('<a>a</a>');
  expect(safeText('<img src="https://elsewhere.example/x.png"><img src="x" onerror="alert(1)">')).toBe('');
  expect(safeText(`<img src="${PICTURE}/../../api/session">`)).toBe('');
  expect(
    safeText('<iframe src="/x"></iframe><svg onload="alert(1)"></svg><math><p>b</p></math>'),
  ).not.toMatch(/iframe|svg|math|onload/);
  expect(safeText('5 < 6 & plain')).toBe('5 &lt; 6 &amp; plain');
});

test('a formatted text is read as plain words', () => {
  expect(plainText('<h2>Row</h2><p>one &amp; two</p><ul><li><p>three</p></li></ul>')).toBe(
    'Row one & two three',
  );
});
