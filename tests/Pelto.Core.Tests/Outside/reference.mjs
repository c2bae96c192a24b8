// Answers from general-purpose libraries that we did not make: a list of questions comes in as JSON, a list of answers goes out.
import validator from 'validator';
import currencies from 'currency-codes';

const answers = {
  iban: text => validator.isIBAN(text),
  gtin: text => validator.isEAN(text),
  isbn: text => validator.isISBN(text, 13),
  container: text => validator.isISO6346(text),
  currency: text => currencies.code(text)?.digits ?? -1,
  currencies: () => currencies.codes(),
};

let input = '';
for await (const chunk of process.stdin) input += chunk;
console.log(JSON.stringify(JSON.parse(input).map(([ask, text]) => answers[ask](text))));
