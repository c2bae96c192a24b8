// Answers from general-purpose libraries that we did not make: a list of questions comes in as JSON, a list of answers goes out.
import validator from 'validator';
import currencies from 'currency-codes';
import { COUNTRY } from 'node-zugferd/codelist/country';
import * as formulajs from '@formulajs/formulajs';
import { HyperFormula } from 'hyperformula';
import { UNIT } from 'node-zugferd/codelist/unit';

const sheet = HyperFormula.buildFromArray([[]], { licenseKey: 'gpl-v3', functionArgSeparator: ';', decimalSeparator: '.', thousandSeparator: '', leapYear1900: false, nullDate: { year: 1899, month: 12, day: 30 } });

// Days as the count from 30 December 1899, so that all three write them alike.
const plain = value => value instanceof Date ? Math.round((Date.UTC(value.getFullYear(), value.getMonth(), value.getDate()) - Date.UTC(1899, 11, 30)) / 86_400_000)
  : value instanceof Error || (typeof value === 'object' && value !== null) || (typeof value === 'number' && !Number.isFinite(value)) ? { error: true } : value ?? '';

const answers = {
  // A whole formula, by one library; a single call with its arguments, by the other.
  sheet: text => plain(sheet.calculateFormula(`=${text}`, 0)),
  call: text => {
    const { name, given } = JSON.parse(text);
    try {
      const called = typeof formulajs[name] === 'function' ? formulajs[name] : formulajs[name].S; // STDEV.S, of a sample
      return plain(called(...given.map(one => one !== null && typeof one === 'object' ? new Date(one.day[0], one.day[1] - 1, one.day[2]) : one)));
    } catch {
      return { error: true };
    }
  },
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
