import type { Duration } from '../../dates/duration.ts';
import type { SignUpWords } from './words.ts';

const ONE = { D: 'jour', W: 'semaine', M: 'mois', Y: 'an' } as const;
const MANY = { D: 'jours', W: 'semaines', M: 'mois', Y: 'ans' } as const;
const EVERY = { D: 'chaque jour', W: 'chaque semaine', M: 'chaque mois', Y: 'chaque année' } as const;
const FEMININE = new Set(['W']);
const length = ({ count, unit }: Duration) => `${count} ${count === 1 ? ONE[unit] : MANY[unit]}`;

/** A sign-up page in French. */
export const WORDS: SignUpWords = {
  language: 'fr',
  labels: {
    choose: 'Ce que vous prenez',
    details: 'Vous',
    ship: 'Où l’envoyer',
    pay: 'Comment vous payez',
    join: 'S’inscrire',
    thanks: 'Merci',
  },
  fields: {
    name: 'Nom',
    email: 'Adresse e-mail',
    phone: 'Téléphone',
    organisation: 'Organisation',
    address: 'Adresse',
    postcode: 'Code postal',
    region: 'Région',
    country: 'Pays',
    language: 'Langue',
    tax_number: 'Numéro fiscal',
    number: 'Numéro de carte',
    expires: 'Expire',
    holder: 'Titulaire',
    iban: 'IBAN',
    quantity: 'Combien',
    amount: 'Votre montant',
    code: 'Code',
    starts: 'Commence le',
    billingDay: 'Jour du mois où vous payez',
  },
  methods: {
    card: 'Carte',
    'bank debit': 'Compte bancaire',
    'online transfer': 'Virement en ligne',
    invoice: 'Facture',
    later: 'Plus tard',
  },
  methodSays: {
    'online transfer': 'Une fois inscrit, votre page vous mène au paiement.',
    invoice: 'Vous recevez une facture par e-mail et la payez vous-même.',
    later: 'Rien n’est nécessaire maintenant. Nous vous le demandons avant la fin de l’essai.',
  },
  policies: {
    'terms of service': 'les conditions générales',
    cancellation: 'les conditions de résiliation',
    refund: 'les conditions de remboursement',
  },
  closed: {
    off: 'Personne ne peut s’inscrire ici pour le moment.',
    over: 'On pouvait s’inscrire ici jusqu’à un jour qui est passé.',
    full: 'Toutes les places sont prises.',
    nothing: 'Il n’y a rien ici pour le moment.',
  },
  every: (interval) =>
    interval.count === 1
      ? EVERY[interval.unit]
      : `${FEMININE.has(interval.unit) ? 'toutes les' : 'tous les'} ${length(interval)}`,
  length,
  once: 'une fois',
  ownAmount: 'le montant que vous voulez',
  from: (amount) => `à partir de ${amount}`,
  eachOf: 'pour chacun,',
  times: (n) => `${n} fois`,
  saves: (amount, than, basis, isMore) =>
    isMore
      ? `${amount} de plus en tout que ${than}`
      : basis === 'a year'
        ? `${amount} de moins par an que ${than}`
        : basis === 'in all'
          ? `${amount} de moins en tout que ${than}`
          : `${amount} de moins chaque fois que ${than}`,
  trialFirst: (trial) => `d’abord un essai de ${trial}`,
  optional: 'facultatif',
  noneOr: (range) => `aucun, ou ${range}`,
  between: (min, max) =>
    min !== null && max !== null
      ? `de ${min} à ${max}`
      : min !== null
        ? `au moins ${min}`
        : max !== null
          ? `au plus ${max}`
          : '',
  upTo: (n) => `au plus ${n}`,
  lastDay: 'le dernier jour',
  usualDay: 'comme il vient',
  atOnce: 'aujourd’hui',
  yes: 'Oui',
  no: 'Non',
  choose: 'Choisir …',
  always: 'toujours compris',
  apply: 'Utiliser',
  other: 'Autre',
  shipHere: 'À cette adresse',
  shipElsewhere: 'À une autre adresse',
  notShipped: (country) => `Nous n’envoyons pas en ${country}.`,
  placesLeft: (n) => (n === 1 ? 'Il reste une place.' : `Il reste ${n} places.`),
  until: (date) => `On peut s’inscrire jusqu’au ${date}.`,
  summary: 'Ce que vous acceptez',
  today: (amount) => `Vous payez ${amount} aujourd’hui.`,
  nothingToday: 'Vous ne payez rien aujourd’hui.',
  freeUntil: (date) => `L’essai dure jusqu’au ${date}. Si vous résiliez avant, vous ne payez rien de plus.`,
  dues: 'Ce qui est prélevé, et quand',
  goesOn: 'et ainsi de suite, jusqu’à ce que vous résiliiez',
  ends: (date) => `Cela se termine tout seul le ${date}.`,
  inAll: (amount) => `${amount} en tout.`,
  taxIn: (percent) => `${percent} % de taxe sont compris.`,
  setUp: 'Mise en place, une fois',
  oncePart: (name) => `${name}, une fois`,
  trialPart: (days) => `L’essai, ${days} jours`,
  stubPart: (name, days, until) => `${name} : ${days === 1 ? 'un jour' : `${days} jours`} jusqu’au ${until}`,
  startsOn: (date) => `Cela commence le ${date}.`,
  agreedCard: (business) =>
    `J’autorise ${business} à débiter cette carte de ce que coûtent mes abonnements, aux dates indiquées, jusqu’à ce que je retire cette autorisation.`,
  agreedBank: (business) =>
    `J’autorise ${business} à prélever sur ce compte bancaire ce que coûtent mes abonnements, aux dates indiquées, et ma banque à le payer, jusqu’à ce que je retire cette autorisation.`,
  agreeTo: (policy) => `J’ai lu ${policy} et je les accepte.`,
  read: 'Lire',
  needed: 'C’est nécessaire.',
  badEmail: 'Donnez une adresse e-mail, par exemple ada@post.example.',
  badNumber: 'Donnez un nombre.',
  mustAgree: 'Acceptez pour vous inscrire.',
  joining: 'Un instant …',
  computing: 'Calcul en cours …',
  loading: 'Chargement …',
  away: 'Nous ne sommes pas joignables pour l’instant. Ce que vous avez saisi est encore là ; réessayez.',
  changed:
    'Quelque chose a changé pendant que vous remplissiez cette page. Relisez ce que vous acceptez, puis inscrivez-vous.',
  lookAgain: (n) => (n === 1 ? 'Il manque une chose plus haut.' : `Il manque ${n} choses plus haut.`),
  leaveEmpty: 'Laissez vide',
  rehearsal: 'Une répétition : tout se passe comme pour un client, et rien n’en est gardé.',
  charged: (amount, method) => `${amount} ont été débités aujourd’hui de votre ${method}.`,
  nothingCharged: 'Rien n’a été débité aujourd’hui.',
  notCollected: (amount) =>
    `Vous êtes inscrit, mais ${amount} n’ont pas pu être débités. Nous vous avons écrit ; votre page accepte une autre carte.`,
  underWay: (amount) => `${amount} sont en cours de prélèvement ; vous recevrez un reçu.`,
  toConfirm: (amount) =>
    `Votre banque vous demande de confirmer ${amount} : ouvrez votre page pour le faire. Rien n’est débité avant.`,
  byHand: (amount) => `${amount} sont à payer ; la facture est en route.`,
  next: (amount, date) => `Ensuite : ${amount} le ${date}.`,
  letter: (email) => `Une lettre avec tout cela est en route vers ${email}.`,
  ownPage: 'Ouvrir votre page',
  toRead: 'Pour vous',
  goOn: 'Continuer',
  practice: 'Cartes d’essai',
};
