import type { Duration } from '../../dates/duration.ts';
import type { SignUpWords } from './words.ts';

const ONE = { D: 'Tag', W: 'Woche', M: 'Monat', Y: 'Jahr' } as const;
const MANY = { D: 'Tage', W: 'Wochen', M: 'Monate', Y: 'Jahre' } as const;
const EVERY = { D: 'jeden Tag', W: 'jede Woche', M: 'jeden Monat', Y: 'jedes Jahr' } as const;
const length = ({ count, unit }: Duration) => `${count} ${count === 1 ? ONE[unit] : MANY[unit]}`;

/** A sign-up page in German. */
export const WORDS: SignUpWords = {
  language: 'de',
  labels: {
    choose: 'Was Sie nehmen',
    details: 'Über Sie',
    ship: 'Wohin es geht',
    pay: 'Wie Sie zahlen',
    join: 'Beitreten',
    thanks: 'Vielen Dank',
  },
  fields: {
    name: 'Name',
    email: 'E-Mail-Adresse',
    phone: 'Telefon',
    organisation: 'Organisation',
    address: 'Anschrift',
    postcode: 'Postleitzahl',
    region: 'Region',
    country: 'Land',
    language: 'Sprache',
    tax_number: 'Steuernummer',
    number: 'Kartennummer',
    expires: 'Gültig bis',
    holder: 'Inhaber',
    iban: 'IBAN',
    quantity: 'Wie viele',
    amount: 'Ihr Betrag',
    code: 'Code',
    starts: 'Beginnt am',
    billingDay: 'Tag im Monat, an dem Sie zahlen',
  },
  methods: {
    card: 'Karte',
    'bank debit': 'Bankkonto',
    'online transfer': 'Online-Überweisung',
    invoice: 'Rechnung',
    later: 'Später',
  },
  methodSays: {
    'online transfer': 'Sobald Sie beigetreten sind, führt Sie Ihre eigene Seite zur Zahlung.',
    invoice: 'Sie bekommen eine Rechnung per E-Mail und zahlen sie selbst.',
    later: 'Jetzt ist nichts nötig. Wir fragen Sie, bevor die Probezeit endet.',
  },
  policies: {
    'terms of service': 'die Vertragsbedingungen',
    cancellation: 'die Kündigungsbedingungen',
    refund: 'die Erstattungsbedingungen',
  },
  closed: {
    off: 'Derzeit kann hier niemand beitreten.',
    over: 'Beitreten konnte man hier bis zu einem Tag, der vorbei ist.',
    full: 'Alle Plätze sind vergeben.',
    nothing: 'Derzeit gibt es hier nichts.',
  },
  every: (interval) => (interval.count === 1 ? EVERY[interval.unit] : `alle ${length(interval)}`),
  length,
  once: 'einmal',
  ownAmount: 'Ihr eigener Betrag',
  from: (amount) => `ab ${amount}`,
  eachOf: 'für jedes,',
  times: (n) => `${n}-mal`,
  saves: (amount, than, basis, isMore) =>
    isMore
      ? `insgesamt ${amount} mehr als ${than}`
      : basis === 'a year'
        ? `spart ${amount} im Jahr gegenüber ${than}`
        : basis === 'in all'
          ? `insgesamt ${amount} weniger als ${than}`
          : `jedes Mal ${amount} weniger als ${than}`,
  trialFirst: (trial) => `erst ${trial} zur Probe`,
  optional: 'freiwillig',
  noneOr: (range) => `keine oder ${range}`,
  between: (min, max) =>
    min !== null && max !== null
      ? `${min} bis ${max}`
      : min !== null
        ? `mindestens ${min}`
        : max !== null
          ? `höchstens ${max}`
          : '',
  upTo: (n) => `höchstens ${n}`,
  lastDay: 'der letzte Tag',
  usualDay: 'wie es kommt',
  atOnce: 'heute',
  yes: 'Ja',
  no: 'Nein',
  choose: 'Wählen …',
  always: 'immer dabei',
  apply: 'Einlösen',
  other: 'Anderer',
  shipHere: 'An diese Anschrift',
  shipElsewhere: 'An eine andere Anschrift',
  notShipped: (country) => `Nach ${country} versenden wir nicht.`,
  placesLeft: (n) => (n === 1 ? 'Ein Platz ist frei.' : `${n} Plätze sind frei.`),
  until: (date) => `Beitreten kann man bis ${date}.`,
  summary: 'Was Sie vereinbaren',
  today: (amount) => `Heute zahlen Sie ${amount}.`,
  nothingToday: 'Heute zahlen Sie nichts.',
  freeUntil: (date) => `Die Probezeit läuft bis ${date}. Wenn Sie vorher kündigen, zahlen Sie nichts weiter.`,
  dues: 'Was wann abgebucht wird',
  goesOn: 'und so weiter, bis Sie kündigen',
  ends: (date) => `Es endet am ${date} von selbst.`,
  inAll: (amount) => `Insgesamt ${amount}.`,
  taxIn: (percent) => `Darin sind ${percent} % Steuer.`,
  setUp: 'Einrichtung, einmal',
  oncePart: (name) => `${name}, einmal`,
  trialPart: (days) => `Die Probezeit, ${days} Tage`,
  stubPart: (name, days, until) => `${name}: ${days === 1 ? 'ein Tag' : `${days} Tage`} bis ${until}`,
  startsOn: (date) => `Es beginnt am ${date}.`,
  agreedCard: (business) =>
    `Ich ermächtige ${business}, diese Karte an den genannten Tagen mit dem zu belasten, was meine Abonnements kosten, bis ich dies widerrufe.`,
  agreedBank: (business) =>
    `Ich ermächtige ${business}, von diesem Bankkonto an den genannten Tagen einzuziehen, was meine Abonnements kosten, und weise meine Bank an, es zu zahlen, bis ich dies widerrufe.`,
  agreeTo: (policy) => `Ich habe ${policy} gelesen und bin einverstanden.`,
  read: 'Lesen',
  needed: 'Das wird gebraucht.',
  badEmail: 'Geben Sie eine E-Mail-Adresse an, etwa ada@post.example.',
  badNumber: 'Geben Sie eine Zahl an.',
  mustAgree: 'Stimmen Sie zu, um beizutreten.',
  joining: 'Einen Augenblick …',
  computing: 'Wird berechnet …',
  loading: 'Wird geladen …',
  away: 'Wir sind gerade nicht erreichbar. Was Sie eingegeben haben, steht noch hier; versuchen Sie es noch einmal.',
  changed:
    'Während Sie dies ausgefüllt haben, wurde etwas geändert. Sehen Sie noch einmal an, was Sie vereinbaren, und treten Sie dann bei.',
  lookAgain: (n) => (n === 1 ? 'Oben fehlt noch etwas.' : `Oben fehlen noch ${n} Angaben.`),
  leaveEmpty: 'Bitte leer lassen',
  rehearsal: 'Eine Probe: alles läuft wie für Kunden, und nichts davon wird behalten.',
  charged: (amount, method) => `${amount} wurden heute von ${method} abgebucht.`,
  nothingCharged: 'Heute wurde nichts abgebucht.',
  notCollected: (amount) =>
    `Sie sind beigetreten, doch ${amount} konnten nicht abgebucht werden. Wir haben Ihnen geschrieben; auf Ihrer eigenen Seite geben Sie eine andere Karte an.`,
  underWay: (amount) => `${amount} werden gerade eingezogen; danach bekommen Sie eine Quittung.`,
  toConfirm: (amount) =>
    `Ihre Bank bittet Sie, ${amount} zu bestätigen: Öffnen Sie dazu Ihre eigene Seite. Vorher wird nichts abgebucht.`,
  byHand: (amount) => `${amount} sind zu zahlen; die Rechnung ist unterwegs zu Ihnen.`,
  next: (amount, date) => `Als Nächstes: ${amount} am ${date}.`,
  letter: (email) => `Ein Brief mit alldem ist unterwegs an ${email}.`,
  ownPage: 'Ihre eigene Seite öffnen',
  toRead: 'Für Sie',
  goOn: 'Weiter',
  practice: 'Karten zum Üben',
};
