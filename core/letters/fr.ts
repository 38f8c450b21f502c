import { WORDS as PAGE } from '../words/signUp/fr.ts';
import type { LetterWords } from './words.ts';

const PAY_OR_CHANGE =
  'Sur votre page personnelle, vous pouvez payer maintenant ou nous donner une autre carte.';
const NOT_ASKED = 'Si vous ne l’avez pas demandé, écrivez-nous.';
const OWN_PAGE = 'Votre page personnelle';
const CANCELLING = '{% if policy %}Pour résilier : {{ policy }}{% endif %}';

/** What each kind of change is, with the day that it is for. */
const ALTERED: Readonly<Record<string, (date: string) => string>> = {
  cancel: (date) => `votre abonnement se termine le ${date}`,
  'go on': () => 'votre abonnement continue',
  pause: (date) => `votre abonnement est suspendu à partir du ${date}`,
  'pause until': (date) => `votre abonnement est suspendu à partir du ${date}`,
  date: (date) => `le jour du prochain paiement change au ${date}`,
  quantity: (date) => `la quantité change au ${date}`,
  extra: (date) => `un supplément change au ${date}`,
  once: (date) => `un montant unique s’ajoute au ${date}`,
  amount: (date) => `un montant s’ajoute au ${date}`,
  variant: (date) => `la formule change au ${date}`,
  'rate card': (date) => `les prix changent au ${date}`,
  code: (date) => `le code de réduction compte à partir du ${date}`,
};

/** Letters in French. */
export const WORDS: LetterWords = {
  language: 'fr',
  greeting: 'Bonjour {{ customer }},',
  letters: {
    message: {
      subject: 'Un message de {{ business }}',
      paragraphs: ['{{ reason }}'],
      link: 'Le lire et y répondre sur votre page',
    },
    started: {
      subject: 'Bienvenue à {{ plan }}',
      paragraphs: [
        'Votre abonnement à {{ plan }} commence le {{ date }}. {% if words %}{{ words }}{% endif %}',
        '{% if how == "free" %}Il ne coûte rien.{% endif %} {% if how != "free" %}Le premier paiement est de {{ amount }}, le {{ next }}.{% endif %} {% if how == "no card" %}Nous n’avons pas encore de carte de votre part et vous écrirons avant la fin de l’essai.{% endif %} {% if how == "asked for" %}Il sera débité dès que vous nous aurez donné une carte : nous vous avons écrit à ce sujet.{% endif %} {% if how == "by hand" %}Vous payez vous-même : nous vous enverrons une facture.{% endif %} {% if how == "automatic" %}Nous débiterons {{ charged }} et vous enverrons un reçu à chaque fois.{% endif %}',
      ],
    },
    'trial ending': {
      subject: 'Votre essai de {{ plan }} se termine le {{ date }}',
      paragraphs: [
        'Votre essai de {{ plan }} se termine le {{ date }}.',
        '{% if how == "by hand" %}Si vous continuez, vous recevrez une facture de {{ amount }}, à payer au plus tard le {{ next }}.{% endif %} {% if how != "by hand" %}Si vous continuez, le premier paiement de {{ amount }} sera débité le {{ next }} : {{ charged }}. Vous n’avez rien à faire.{% endif %} Sinon, résiliez avant ce jour sur votre page personnelle.',
        CANCELLING,
      ],
      link: 'Regarder ou résilier',
    },
    'trial without a card': {
      subject: 'Votre essai de {{ plan }} se termine le {{ date }}',
      paragraphs: [
        'Votre essai de {{ plan }} se termine le {{ date }}, et nous n’avons pas de carte de votre part.',
        '{{ reason }}',
        'Pour continuer, donnez-nous une carte sur votre page personnelle. Le premier paiement serait de {{ amount }}, le {{ next }}.',
        CANCELLING,
      ],
      link: 'Donner une carte',
    },
    'renewal coming': {
      subject: '{{ plan }} se renouvelle le {{ date }}',
      paragraphs: [
        'Votre abonnement à {{ plan }} se renouvelle le {{ date }} : {{ amount }}. {{ next }}',
        'Vous pouvez le regarder ou le changer sur votre page personnelle.',
      ],
      link: OWN_PAGE,
    },
    receipt: {
      subject: 'Reçu de {{ amount }} : {{ plan }}',
      paragraphs: [
        '{% if how == "by hand" %}Merci. {{ amount }} nous sont parvenus le {{ date }} ({{ reason }}).{% endif %} {% if how == "transfer" %}Merci. Votre virement en ligne de {{ amount }} nous est parvenu le {{ date }}.{% endif %} {% if how == "automatic" %}Merci. Nous avons débité {{ amount }} le {{ date }} : {{ charged }}.{% endif %}',
        'Facture {{ invoice }}, {{ plan }}, {{ period }}. {% if how != "by hand" %}Sur votre relevé figurera « {{ reason }} ».{% endif %}',
      ],
    },
    'confirm payment': {
      subject: 'Veuillez confirmer votre paiement de {{ amount }} pour {{ plan }}',
      paragraphs: [
        'Nous débitons {{ amount }} pour {{ plan }}, {{ period }} ({{ charged }}), et votre banque vous demande de le confirmer.',
        'Faites-le sur votre page personnelle au plus tard le {{ date }} : de là, vous passez à votre banque, et cela prend une minute. Rien n’est débité avant.',
      ],
      link: 'Confirmer le paiement',
    },
    'payment declined': {
      subject: 'Votre paiement pour {{ plan }} n’est pas passé',
      paragraphs: [
        'Nous avons voulu débiter {{ amount }} pour {{ plan }} ({{ charged }}), et cela a été refusé : {{ reason }}.',
        '{{ next }}',
        `${PAY_OR_CHANGE} Rien d’autre ne change.`,
      ],
      link: 'Payer ou changer de carte',
    },
    'payment still declined': {
      subject: '{{ plan }} : {{ amount }} restent à payer',
      paragraphs: [
        'Votre paiement de {{ amount }} pour {{ plan }} n’est toujours pas passé : {{ reason }}.',
        '{{ next }}',
        PAY_OR_CHANGE,
      ],
      link: 'Payer ou changer de carte',
    },
    'last reminder': {
      subject: 'Dernier rappel : {{ plan }} s’arrête le {{ date }}',
      paragraphs: [
        'Votre paiement de {{ amount }} pour {{ plan }} n’est pas passé : {{ reason }}.',
        'S’il n’est pas payé d’ici là, votre abonnement s’arrête le {{ date }}. Nous le regretterions.',
        PAY_OR_CHANGE,
      ],
      link: 'Payer ou changer de carte',
    },
    lapsed: {
      subject: 'Votre abonnement à {{ plan }} s’est arrêté',
      paragraphs: [
        'Nous n’avons pas pu encaisser {{ amount }} pour {{ plan }} ; votre abonnement s’est donc arrêté le {{ date }}.',
        'Nous n’essaierons plus de débiter. Le montant ouvert peut encore être payé sur votre page personnelle ; écrivez-nous si vous voulez recommencer.',
      ],
      link: 'Voir ce qui reste à payer',
    },
    'card expiring': {
      subject: 'Votre carte {{ card }} expire le {{ date }}',
      paragraphs: [
        'La carte qui paie {{ plan }}, {{ card }}, est valable jusqu’au {{ date }}. {{ next }}',
        'Si votre banque vous en a envoyé une nouvelle, donnez-la sur votre page personnelle : cela prend une minute, et rien n’est débité avant l’échéance. Certaines banques nous indiquent elles-mêmes la nouvelle carte ; alors nous continuons avec elle.',
      ],
      link: 'Donner la nouvelle carte',
    },
    'card replaced': {
      subject: '{{ plan }} : votre moyen de paiement a changé',
      paragraphs: [
        'Désormais, nous débitons pour {{ plan }} : {{ charged }}.',
        'Si vous ne l’avez pas demandé, écrivez-nous sans attendre.',
      ],
    },
    'terms changing': {
      subject: '{{ plan }} change le {{ date }}',
      paragraphs: [
        'À partir du {{ date }}, votre abonnement à {{ plan }} coûte {{ amount }}. D’ici là, rien ne change.',
        'Le premier paiement ensuite : {{ reason }}, le {{ next }}.',
        'Si vous préférez ne pas continuer, écrivez-nous avant ce jour.',
      ],
    },
    'subscription altered': {
      subject: '{{ plan }} : {{ reason }}',
      paragraphs: ['Nous vous informons : {{ reason }}.', '{{ next }}', NOT_ASKED],
      link: OWN_PAGE,
    },
    cancelled: {
      subject: 'Votre abonnement à {{ plan }} se termine le {{ date }}',
      paragraphs: [
        'Votre abonnement à {{ plan }} est résilié et se termine le {{ date }}. {{ next }}',
        NOT_ASKED,
      ],
      link: OWN_PAGE,
    },
    'mandate request': {
      subject: '{% if how == "again" %}Rappel : {% endif %}Comment voulez-vous payer {{ plan }} ?',
      paragraphs: [
        '{% if how == "again" %}Le {{ date }}, nous vous avons demandé une carte pour payer {{ plan }}, et nous n’en avons pas encore.{% endif %} {% if how == "first" %}Pour payer {{ plan }}, donnez-nous une carte sur votre page personnelle. Cela prend une minute.{% endif %}',
        '{% if owed %}{{ owed }} restent à payer et seront débités de la carte dès que vous l’aurez donnée. {% endif %} {% if amount %}Le prochain paiement est de {{ amount }}, le {{ next }}.{% endif %}',
        'Le numéro de la carte va directement à notre service de paiement : nous ne le voyons jamais. En la donnant, vous nous autorisez à débiter ce que coûtent vos abonnements, aux dates indiquées, jusqu’à ce que vous retiriez cette autorisation.',
      ],
      link: 'Donner une carte',
    },
    'mandate confirmed': {
      subject: 'Merci : nous avons {{ charged }}',
      paragraphs: [
        'Le {{ date }}, vous nous avez donné {{ charged }} et accepté ceci : « {{ reason }} »',
        'Si ce n’était pas vous, écrivez-nous sans attendre.',
      ],
      link: OWN_PAGE,
    },
    'mandate withdrawn': {
      subject: 'Nous ne débitons plus {{ charged }}',
      paragraphs: [
        'Le {{ date }}, l’autorisation de débiter {{ charged }} a été retirée : nous n’y débitons plus rien. {% if next %}{{ next }}{% endif %}',
        NOT_ASKED,
      ],
    },
    'invoice to pay': {
      subject:
        'Facture {{ invoice }} pour {{ plan }} : {{ amount }}{% if next %} en plusieurs fois, la première{% endif %} au plus tard le {{ date }}',
      paragraphs: [
        'Voici la facture {{ invoice }} pour {{ plan }}, {{ period }} : {{ amount }}{% unless next %}, à payer au plus tard le {{ date }}{% endunless %}. {% if next %}{{ next }}{% endif %}',
        'Rien n’est débité automatiquement : vous pouvez payer sur votre page personnelle.',
      ],
      link: 'Payer cette facture',
    },
    'invoice in parts': {
      subject: 'Facture {{ invoice }} pour {{ plan }} : en plusieurs fois',
      paragraphs: [
        'Ce qui reste de la facture {{ invoice }} pour {{ plan }}, {{ amount }}, se paie en plusieurs fois : {{ period }}. {{ next }}',
      ],
      link: OWN_PAGE,
    },
    'part due': {
      subject: '{{ plan }} : {{ amount }} au plus tard le {{ date }}',
      paragraphs: [
        'De la facture {{ invoice }} pour {{ plan }}, {{ period }} est à payer le {{ date }} : {{ amount }}.',
        '{{ next }}',
      ],
      link: OWN_PAGE,
    },
    'invoice reminder': {
      subject: 'Facture {{ invoice }} pour {{ plan }} : {{ amount }} au plus tard le {{ date }}',
      paragraphs: [
        'Nous vous rappelons la facture {{ invoice }} pour {{ plan }}, {{ period }} : {{ amount }} à payer au plus tard le {{ date }}.',
        'Si le paiement est déjà en route, il n’y a rien à faire. Sinon, vous pouvez payer sur votre page personnelle.',
      ],
      link: 'Payer cette facture',
    },
    'invoice overdue': {
      subject: '{{ plan }} : {{ amount }} restent à payer',
      paragraphs: [
        '{{ amount }} pour {{ plan }} étaient dus et ne nous sont pas encore parvenus.',
        '{{ next }}',
      ],
      link: 'Payer ce qui reste',
    },
    'credit note': {
      subject: 'Avoir {{ words }} : {{ amount }} de la facture {{ invoice }}',
      paragraphs: [
        'Nous avons crédité {{ amount }} de la facture {{ invoice }} : {{ reason }}',
        '{% if next %}{{ next }}{% endif %}',
      ],
      link: OWN_PAGE,
    },
    refund: {
      subject: '{{ amount }} vous sont remboursés',
      paragraphs: [
        '{% if how == "by hand" %}Nous vous avons remboursé {{ amount }} le {{ date }} ({{ period }}).{% endif %} {% if how == "automatic" %}Nous avons remboursé {{ amount }} le {{ date }} : {{ charged }}. Cela y apparaît sous quelques jours.{% endif %}',
        'Motif : {{ reason }}',
      ],
      link: OWN_PAGE,
    },
    ended: {
      subject: 'Votre abonnement à {{ plan }} est terminé',
      paragraphs: [
        'Votre abonnement à {{ plan }} est arrivé à son terme le {{ date }}. Merci.',
        '{% if amount %}{{ amount }} de ce que vous avez payé n’ont pas été utilisés. Cela reste à votre crédit : écrivez-nous pour vous le faire rembourser.{% endif %}',
      ],
    },
  },
  sentences: {
    'pay on own page': () =>
      'Rien n’est débité automatiquement : vous pouvez payer sur votre page personnelle.',
    'try again on': ({ date }) => `Nous réessayons la carte le ${date}.`,
    'cannot try again': () =>
      'Nous ne pouvons pas réessayer cette carte avant que vous nous en ayez donné une autre ou réglé la question avec votre banque.',
    'can be paid': () => 'Vous pouvez le payer sur votre page personnelle.',
    'service stopped': () => 'Le service est suspendu jusqu’au paiement.',
    'invoice unpaid': () => 'la facture n’est pas payée',
    'no card to charge': () => 'il n’y a pas de carte à débiter',
    'still goes through': ({ date }) =>
      `Le prochain paiement, le ${date}, passera encore ; les suivants non.`,
    'would not go through': ({ date }) => `Le prochain paiement est le ${date} et ne passerait plus.`,
    'invoice follows': ({ date }) => `Vous recevrez une facture, à payer au plus tard le ${date}.`,
    'is charged on': ({ charged, date }) => `Ce sera débité le ${date} : ${charged}.`,
    'charged that day': ({ charged }) => `Ce sera débité ce jour-là : ${charged}.`,
    'each charged by itself': () => 'Chacun est débité automatiquement à son jour.',
    'in parts': ({ count, parts }) => `Elle se paie en ${count} fois : ${parts}.`,
    'amount by': ({ amount, date }) => `${amount} au plus tard le ${date}`,
    'amount on': ({ amount, date }) => `${amount} le ${date}`,
    'part of': ({ place, parts }) => `la partie ${place} sur ${parts}`,
    'next payment': ({ amount, date }) => `Le prochain paiement est de ${amount}, le ${date}.`,
    'nothing more': () => 'Plus rien ne sera débité.',
    'left as credit': ({ amount }) =>
      `${amount} de ce qui a été payé ne sont pas utilisés et restent à votre crédit.`,
    'not to be paid': ({ amount }) => `${amount} de la facture ne sont plus à payer.`,
    'your credit': ({ amount }) => `${amount} sont à votre crédit : la prochaine échéance l’utilise d’abord.`,
    'not charged until': ({ plans }) =>
      `Tant que vous ne nous donnez pas un autre moyen de paiement, rien n’est débité pour ${plans}.`,
    'without card end': () => 'Sans carte, il se termine simplement alors, et rien n’est débité.',
    'without card pause': () =>
      'Sans carte, il est suspendu à partir de là, et reprend le jour où vous nous en donnez une.',
    'without card invoice': () => 'Sans carte, nous vous envoyons des factures, que vous payez vous-même.',
    'without card wait': () => 'Tant que vous ne nous en donnez pas, vos paiements attendent.',
    'whole on own page': () => 'Le texte entier est sur votre page personnelle.',
    'by transfer': () => 'virement',
    'in cash': () => 'espèces',
    'by cheque': () => 'chèque',
    'another way': () => 'autrement',
    nothing: () => 'rien',
    altered: ({ kind, date }) => ALTERED[kind]?.(date) ?? `votre abonnement change au ${date}`,
    agreedCard: ({ business }) => PAGE.agreedCard(business),
  },
  declines: {
    '01': 'la banque souhaite vous parler',
    '04': 'la banque a retiré la carte',
    '05': 'la banque a refusé sans donner de raison',
    '12': 'la carte ne permet pas ce genre de paiement',
    '14': 'le numéro de carte n’est pas valable',
    '41': 'la carte a été déclarée perdue',
    '43': 'la carte a été déclarée volée',
    '51': 'il n’y a pas assez d’argent sur le compte',
    '54': 'la carte a expiré',
    '57': 'la carte ne permet pas ce genre de paiement',
    '61': 'le plafond de la carte est dépassé',
    '62': 'la carte est restreinte',
    '65': 'la carte a été utilisée trop souvent aujourd’hui',
    '70': 'le titulaire doit confirmer le paiement',
    '91': 'la banque était injoignable',
    '96': 'une panne du réseau de cartes',
    AC01: 'le numéro du compte bancaire n’est pas juste',
    AC04: 'le compte bancaire est fermé',
    AC06: 'le compte bancaire est bloqué',
    AG01: 'le compte bancaire n’accepte pas les prélèvements',
    AM04: 'il n’y a pas assez d’argent sur le compte',
    MD01: 'la banque ne connaît pas de mandat, ou il y a été retiré',
    MD07: 'le titulaire du compte est décédé',
    MS02: 'le prélèvement a été refusé auprès de la banque',
    MS03: 'la banque a refusé sans donner de raison',
  },
  and: 'et',
  fromTo: ({ from, to }) => `du ${from} au ${to}`,
  card: ({ network, lastFour }) => `${network} se terminant par ${lastFour}`,
  bankAccount: ({ lastFour }) => `Compte bancaire se terminant par ${lastFour}`,
  transfer: 'Virement en ligne',
  yourCard: ({ card }) => `votre carte ${card}`,
  yourBankAccount: ({ lastFour }) => `votre compte bancaire se terminant par ${lastFour}`,
  yourTransfer: 'votre virement en ligne',
  yourCardOnFile: 'votre carte enregistrée',
  onFile: 'enregistrée',
  unsubscribe: 'Vous n’êtes pas obligé de recevoir de telles lettres : les arrêter ici',
};
