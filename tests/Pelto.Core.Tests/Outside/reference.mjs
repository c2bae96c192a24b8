// Answers from general-purpose libraries that we did not make: a list of questions comes in as JSON, a list of answers goes out.
import validator from 'validator';
import currencies from 'currency-codes';
import { COUNTRY } from 'node-zugferd/codelist/country';
import { UNIT } from 'node-zugferd/codelist/unit';

const answers = {
  iban: text => validator.isIBAN(text),
  gtin: text => validator.isEAN(text),
  isbn: text => validator.isISBN(text, 13),
  container: text => validator.isISO6346(text),
  currency: text => currencies.code(text)?.digits ?? -1,
  country: text => COUNTRY.find(country => country.value === text)?.name ?? '',
  unit: text => UNIT.find(unit => unit.value === text && unit.source === 'rec20')?.name ?? '',
  currencies: () => currencies.codes(),
};

let input = '';
for await (const chunk of process.stdin) input += chunk;
console.log(JSON.stringify(JSON.parse(input).map(([ask, text]) => answers[ask](text))));
