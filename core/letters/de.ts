import { WORDS as PAGE } from '../words/signUp/de.ts';
import type { LetterWords } from './words.ts';

const PAY_OR_CHANGE = 'Auf Ihrer eigenen Seite können Sie jetzt zahlen oder uns eine andere Karte angeben.';
const NOT_ASKED = 'Falls Sie das nicht veranlasst haben, schreiben Sie uns bitte.';
const OWN_PAGE = 'Ihre eigene Seite';
const CANCELLING = '{% if policy %}So kündigen Sie: {{ policy }}{% endif %}';

/** What each kind of change is, with the day that it is for. */
const ALTERED: Readonly<Record<string, (date: string) => string>> = {
  cancel: (date) => `Ihr Abonnement endet am ${date}`,
  'go on': () => 'Ihr Abonnement geht weiter',
  pause: (date) => `Ihr Abonnement ruht ab dem ${date}`,
  'pause until': (date) => `Ihr Abonnement ruht ab dem ${date}`,
  date: (date) => `der Tag der nächsten Zahlung ändert sich zum ${date}`,
  quantity: (date) => `die Menge ändert sich zum ${date}`,
  extra: (date) => `ein Zusatz ändert sich zum ${date}`,
  once: (date) => `es kommt zum ${date} ein einmaliger Betrag hinzu`,
  amount: (date) => `es kommt zum ${date} ein Betrag hinzu`,
  variant: (date) => `die Ausführung ändert sich zum ${date}`,
  'rate card': (date) => `die Preise ändern sich zum ${date}`,
  code: (date) => `der Rabattcode gilt ab dem ${date}`,
};

/** Letters in German. */
export const WORDS: LetterWords = {
  language: 'de',
  greeting: 'Guten Tag {{ customer }},',
  letters: {
    message: {
      subject: 'Eine Nachricht von {{ business }}',
      paragraphs: ['{{ reason }}'],
      link: 'Auf Ihrer eigenen Seite lesen und antworten',
    },
    started: {
      subject: 'Willkommen bei {{ plan }}',
      paragraphs: [
        'Ihr Abonnement {{ plan }} beginnt am {{ date }}. {% if words %}{{ words }}{% endif %}',
        '{% if how == "free" %}Es kostet nichts.{% endif %} {% if how != "free" %}Die erste Zahlung beträgt {{ amount }} und ist am {{ next }} fällig.{% endif %} {% if how == "no card" %}Wir haben noch keine Karte von Ihnen und schreiben Ihnen, bevor die Probezeit endet.{% endif %} {% if how == "asked for" %}Sie wird abgebucht, sobald Sie uns eine Karte angegeben haben: Dazu haben wir Ihnen geschrieben.{% endif %} {% if how == "by hand" %}Sie zahlen selbst: Wir schicken Ihnen eine Rechnung.{% endif %} {% if how == "automatic" %}Wir buchen von {{ charged }} ab und schicken Ihnen jedes Mal eine Quittung.{% endif %}',
      ],
    },
    'trial ending': {
      subject: 'Ihre Probezeit für {{ plan }} endet am {{ date }}',
      paragraphs: [
        'Ihre Probezeit für {{ plan }} endet am {{ date }}.',
        '{% if how == "by hand" %}Wenn Sie dabeibleiben, bekommen Sie eine Rechnung über {{ amount }}, zahlbar bis {{ next }}.{% endif %} {% if how != "by hand" %}Wenn Sie dabeibleiben, wird die erste Zahlung von {{ amount }} am {{ next }} von {{ charged }} abgebucht. Sie brauchen nichts zu tun.{% endif %} Möchten Sie das nicht, kündigen Sie vor diesem Tag auf Ihrer eigenen Seite.',
        CANCELLING,
      ],
      link: 'Ansehen oder kündigen',
    },
    'trial without a card': {
      subject: 'Ihre Probezeit für {{ plan }} endet am {{ date }}',
      paragraphs: [
        'Ihre Probezeit für {{ plan }} endet am {{ date }}, und wir haben keine Karte von Ihnen.',
        '{{ reason }}',
        'Wenn es weitergehen soll, geben Sie uns auf Ihrer eigenen Seite eine Karte an. Die erste Zahlung wären {{ amount }} am {{ next }}.',
        CANCELLING,
      ],
      link: 'Karte angeben',
    },
    'renewal coming': {
      subject: '{{ plan }} verlängert sich am {{ date }}',
      paragraphs: [
        'Ihr Abonnement {{ plan }} verlängert sich am {{ date }}: {{ amount }}. {{ next }}',
        'Auf Ihrer eigenen Seite können Sie es ansehen und ändern.',
      ],
      link: OWN_PAGE,
    },
    receipt: {
      subject: 'Quittung über {{ amount }}: {{ plan }}',
      paragraphs: [
        '{% if how == "by hand" %}Vielen Dank. {{ amount }} sind am {{ date }} bei uns eingegangen ({{ reason }}).{% endif %} {% if how == "transfer" %}Vielen Dank. Ihre Online-Überweisung über {{ amount }} ist am {{ date }} bei uns eingegangen.{% endif %} {% if how == "automatic" %}Vielen Dank. Wir haben am {{ date }} von {{ charged }} {{ amount }} abgebucht.{% endif %}',
        'Rechnung {{ invoice }}, {{ plan }}, {{ period }}. {% if how != "by hand" %}Auf Ihrem Kontoauszug steht „{{ reason }}“.{% endif %}',
      ],
    },
    'confirm payment': {
      subject: 'Bitte bestätigen Sie Ihre Zahlung von {{ amount }} für {{ plan }}',
      paragraphs: [
        'Wir buchen {{ amount }} für {{ plan }}, {{ period }}, von {{ charged }} ab, und Ihre Bank bittet Sie, das zu bestätigen.',
        'Bitte tun Sie das bis {{ date }} auf Ihrer eigenen Seite: Von dort kommen Sie zu Ihrer Bank, und es dauert eine Minute. Vorher wird nichts abgebucht.',
      ],
      link: 'Zahlung bestätigen',
    },
    'payment declined': {
      subject: 'Ihre Zahlung für {{ plan }} ist nicht durchgegangen',
      paragraphs: [
        'Wir wollten {{ amount }} für {{ plan }} von {{ charged }} abbuchen, und das wurde abgelehnt: {{ reason }}.',
        '{{ next }}',
        `${PAY_OR_CHANGE} Sonst ändert sich nichts.`,
      ],
      link: 'Zahlen oder Karte ändern',
    },
    'payment still declined': {
      subject: '{{ plan }}: {{ amount }} sind noch offen',
      paragraphs: [
        'Ihre Zahlung von {{ amount }} für {{ plan }} ist noch nicht durchgegangen: {{ reason }}.',
        '{{ next }}',
        PAY_OR_CHANGE,
      ],
      link: 'Zahlen oder Karte ändern',
    },
    'last reminder': {
      subject: 'Letzte Erinnerung: {{ plan }} endet am {{ date }}',
      paragraphs: [
        'Ihre Zahlung von {{ amount }} für {{ plan }} ist nicht durchgegangen: {{ reason }}.',
        'Wenn sie bis dahin nicht bezahlt ist, endet Ihr Abonnement am {{ date }}. Das täte uns leid.',
        PAY_OR_CHANGE,
      ],
      link: 'Zahlen oder Karte ändern',
    },
    lapsed: {
      subject: 'Ihr Abonnement {{ plan }} ist beendet',
      paragraphs: [
        'Wir konnten {{ amount }} für {{ plan }} nicht einziehen; Ihr Abonnement ist deshalb seit dem {{ date }} beendet.',
        'Wir versuchen keine weiteren Abbuchungen. Der offene Betrag kann noch auf Ihrer eigenen Seite bezahlt werden; schreiben Sie uns, wenn Sie neu beginnen möchten.',
      ],
      link: 'Ansehen, was offen ist',
    },
    'card expiring': {
      subject: 'Ihre Karte {{ card }} läuft am {{ date }} ab',
      paragraphs: [
        'Die Karte, mit der Sie {{ plan }} zahlen, {{ card }}, gilt bis {{ date }}. {{ next }}',
        'Wenn Ihre Bank Ihnen eine neue geschickt hat, geben Sie sie bitte auf Ihrer eigenen Seite an: Das dauert eine Minute, und es wird nichts vor der Fälligkeit abgebucht. Manche Banken melden uns die neue Karte von selbst; dann machen wir mit ihr weiter.',
      ],
      link: 'Neue Karte angeben',
    },
    'card replaced': {
      subject: '{{ plan }}: Ihr Zahlungsmittel wurde geändert',
      paragraphs: [
        'Von jetzt an buchen wir {{ plan }} von {{ charged }} ab.',
        'Falls Sie das nicht veranlasst haben, schreiben Sie uns bitte sofort.',
      ],
    },
    'terms changing': {
      subject: '{{ plan }} ändert sich am {{ date }}',
      paragraphs: [
        'Ab dem {{ date }} kostet Ihr Abonnement {{ plan }} {{ amount }}. Bis dahin ändert sich nichts.',
        'Die erste Zahlung danach: {{ reason }} am {{ next }}.',
        'Wenn Sie damit nicht einverstanden sind, schreiben Sie uns vor diesem Tag.',
      ],
    },
    'subscription altered': {
      subject: '{{ plan }}: {{ reason }}',
      paragraphs: ['Wir teilen Ihnen mit: {{ reason }}.', '{{ next }}', NOT_ASKED],
      link: OWN_PAGE,
    },
    cancelled: {
      subject: 'Ihr Abonnement {{ plan }} endet am {{ date }}',
      paragraphs: ['Ihr Abonnement {{ plan }} ist gekündigt und endet am {{ date }}. {{ next }}', NOT_ASKED],
      link: OWN_PAGE,
    },
    'mandate request': {
      subject: '{% if how == "again" %}Erinnerung: {% endif %}Wie möchten Sie {{ plan }} zahlen?',
      paragraphs: [
        '{% if how == "again" %}Am {{ date }} haben wir Sie um eine Karte für {{ plan }} gebeten, und wir haben noch keine.{% endif %} {% if how == "first" %}Um {{ plan }} zu zahlen, geben Sie uns bitte auf Ihrer eigenen Seite eine Karte an. Das dauert eine Minute.{% endif %}',
        '{% if owed %}Offen sind {{ owed }}; das wird von der Karte abgebucht, sobald Sie sie angeben. {% endif %} {% if amount %}Die nächste Zahlung beträgt {{ amount }} und ist am {{ next }} fällig.{% endif %}',
        'Die Nummer der Karte geht geradewegs an unseren Zahlungsdienst: Wir sehen sie nie. Indem Sie sie angeben, ermächtigen Sie uns, an den genannten Tagen abzubuchen, was Ihre Abonnements kosten, bis Sie dies widerrufen.',
      ],
      link: 'Karte angeben',
    },
    'mandate confirmed': {
      subject: 'Vielen Dank: Wir buchen künftig von {{ charged }} ab',
      paragraphs: [
        'Am {{ date }} haben Sie uns ermächtigt, von {{ charged }} abzubuchen, und diesem zugestimmt: „{{ reason }}“',
        'Falls Sie das nicht waren, schreiben Sie uns bitte sofort.',
      ],
      link: OWN_PAGE,
    },
    'mandate withdrawn': {
      subject: 'Von {{ charged }} wird nichts mehr abgebucht',
      paragraphs: [
        'Am {{ date }} wurde die Ermächtigung widerrufen, von {{ charged }} abzubuchen: Wir buchen dort nichts mehr ab. {% if next %}{{ next }}{% endif %}',
        NOT_ASKED,
      ],
    },
    'invoice to pay': {
      subject:
        'Rechnung {{ invoice }} für {{ plan }}: {{ amount }}{% if next %} in Teilen, der erste{% endif %} bis {{ date }}',
      paragraphs: [
        'Hier ist die Rechnung {{ invoice }} für {{ plan }}, {{ period }}: {{ amount }}{% unless next %}, zahlbar bis {{ date }}{% endunless %}. {% if next %}{{ next }}{% endif %}',
        'Es wird nichts von selbst abgebucht: Zahlen können Sie auf Ihrer eigenen Seite.',
      ],
      link: 'Diese Rechnung zahlen',
    },
    'invoice in parts': {
      subject: 'Rechnung {{ invoice }} für {{ plan }}: in Teilen',
      paragraphs: [
        'Was von der Rechnung {{ invoice }} für {{ plan }} offen ist, {{ amount }}, ist in Teilen zu zahlen: {{ period }}. {{ next }}',
      ],
      link: OWN_PAGE,
    },
    'part due': {
      subject: '{{ plan }}: {{ amount }} bis {{ date }}',
      paragraphs: [
        'Von der Rechnung {{ invoice }} für {{ plan }} ist am {{ date }} fällig: {{ period }}, {{ amount }}.',
        '{{ next }}',
      ],
      link: OWN_PAGE,
    },
    'invoice reminder': {
      subject: 'Rechnung {{ invoice }} für {{ plan }}: {{ amount }} bis {{ date }}',
      paragraphs: [
        'Wir erinnern Sie an die Rechnung {{ invoice }} für {{ plan }}, {{ period }}: {{ amount }} sind bis {{ date }} zu zahlen.',
        'Falls das schon unterwegs ist, brauchen Sie nichts zu tun. Sonst können Sie auf Ihrer eigenen Seite zahlen.',
      ],
      link: 'Diese Rechnung zahlen',
    },
    'invoice overdue': {
      subject: '{{ plan }}: {{ amount }} sind noch offen',
      paragraphs: [
        '{{ amount }} für {{ plan }} waren fällig und sind noch nicht bei uns eingegangen.',
        '{{ next }}',
      ],
      link: 'Zahlen, was offen ist',
    },
    'credit note': {
      subject: 'Gutschrift {{ words }}: {{ amount }} der Rechnung {{ invoice }}',
      paragraphs: [
        'Wir haben {{ amount }} der Rechnung {{ invoice }} gutgeschrieben: {{ reason }}',
        '{% if next %}{{ next }}{% endif %}',
      ],
      link: OWN_PAGE,
    },
    refund: {
      subject: 'Sie bekommen {{ amount }} zurück',
      paragraphs: [
        '{% if how == "by hand" %}Wir haben Ihnen am {{ date }} {{ amount }} zurückgezahlt ({{ period }}).{% endif %} {% if how == "automatic" %}Wir haben am {{ date }} {{ amount }} zurückgezahlt, zugunsten von {{ charged }}. Dort erscheint es in wenigen Tagen.{% endif %}',
        'Warum: {{ reason }}',
      ],
      link: OWN_PAGE,
    },
    ended: {
      subject: 'Ihr Abonnement {{ plan }} ist abgeschlossen',
      paragraphs: [
        'Ihr Abonnement {{ plan }} ist wie vereinbart am {{ date }} zu Ende gegangen. Vielen Dank.',
        '{% if amount %}{{ amount }} von dem, was Sie gezahlt haben, wurden nicht verbraucht. Das bleibt Ihr Guthaben: Schreiben Sie uns, wenn wir es zurückzahlen sollen.{% endif %}',
      ],
    },
  },
  sentences: {
    'pay on own page': () =>
      'Es wird nichts von selbst abgebucht: Zahlen können Sie auf Ihrer eigenen Seite.',
    'try again on': ({ date }) => `Wir versuchen es am ${date} noch einmal.`,
    'cannot try again': () =>
      'Wir können es mit dieser Karte nicht noch einmal versuchen, bevor Sie uns eine andere angegeben haben oder die Sache mit Ihrer Bank geklärt ist.',
    'can be paid': () => 'Sie können es auf Ihrer eigenen Seite zahlen.',
    'service stopped': () => 'Bis zur Zahlung ruht die Leistung.',
    'invoice unpaid': () => 'die Rechnung ist nicht bezahlt',
    'no card to charge': () => 'es gibt keine Karte, von der wir abbuchen können',
    'still goes through': ({ date }) =>
      `Die nächste Zahlung am ${date} geht noch durch, die danach nicht mehr.`,
    'would not go through': ({ date }) => `Die nächste Zahlung ist am ${date} und ginge nicht mehr durch.`,
    'invoice follows': ({ date }) => `Sie bekommen eine Rechnung, zahlbar bis ${date}.`,
    'is charged on': ({ charged, date }) => `Das wird am ${date} von ${charged} abgebucht.`,
    'charged that day': ({ charged }) => `Das wird an diesem Tag von ${charged} abgebucht.`,
    'each charged by itself': () => 'Jeder wird an seinem Tag von selbst abgebucht.',
    'in parts': ({ count, parts }) => `Sie wird in ${count} Teilen bezahlt: ${parts}.`,
    'amount by': ({ amount, date }) => `${amount} bis ${date}`,
    'amount on': ({ amount, date }) => `${amount} am ${date}`,
    'part of': ({ place, parts }) => `Teil ${place} von ${parts}`,
    'next payment': ({ amount, date }) => `Die nächste Zahlung: ${amount} am ${date}.`,
    'nothing more': () => 'Es wird nichts mehr abgebucht.',
    'left as credit': ({ amount }) =>
      `${amount} von dem, was gezahlt wurde, sind nicht verbraucht und bleiben als Guthaben.`,
    'not to be paid': ({ amount }) => `${amount} der Rechnung sind nicht mehr zu zahlen.`,
    'your credit': ({ amount }) => `${amount} sind Ihr Guthaben: Die nächste Zahlung verbraucht es zuerst.`,
    'not charged until': ({ plans }) =>
      `Bis Sie uns ein anderes Zahlungsmittel angeben, wird nichts abgebucht für ${plans}.`,
    'without card end': () => 'Ohne Karte endet es dann einfach, und es wird nichts abgebucht.',
    'without card pause': () =>
      'Ohne Karte ruht es von da an und geht an dem Tag weiter, an dem Sie uns eine angeben.',
    'without card invoice': () => 'Ohne Karte schicken wir Ihnen Rechnungen, die Sie selbst zahlen.',
    'without card wait': () => 'Bis Sie uns eine angeben, warten Ihre Zahlungen.',
    'whole on own page': () => 'Der ganze Text steht auf Ihrer eigenen Seite.',
    'by transfer': () => 'Überweisung',
    'in cash': () => 'bar',
    'by cheque': () => 'Scheck',
    'another way': () => 'auf anderem Weg',
    nothing: () => 'nichts',
    altered: ({ kind, date }) => ALTERED[kind]?.(date) ?? `Ihr Abonnement ändert sich zum ${date}`,
    agreedCard: ({ business }) => PAGE.agreedCard(business),
  },
  declines: {
    '01': 'die Bank möchte mit Ihnen sprechen',
    '04': 'die Bank hat die Karte eingezogen',
    '05': 'die Bank hat ohne Angabe von Gründen abgelehnt',
    '12': 'die Karte lässt diese Art von Zahlung nicht zu',
    '14': 'die Kartennummer ist nicht gültig',
    '41': 'die Karte wurde als verloren gemeldet',
    '43': 'die Karte wurde als gestohlen gemeldet',
    '51': 'das Konto ist nicht ausreichend gedeckt',
    '54': 'die Karte ist abgelaufen',
    '57': 'die Karte lässt diese Art von Zahlung nicht zu',
    '61': 'das Limit der Karte ist überschritten',
    '62': 'die Karte ist eingeschränkt',
    '65': 'die Karte wurde heute zu oft benutzt',
    '70': 'die Zahlung muss vom Karteninhaber bestätigt werden',
    '91': 'die Bank war nicht erreichbar',
    '96': 'eine Störung im Kartennetz',
    AC01: 'die Nummer des Bankkontos stimmt nicht',
    AC04: 'das Bankkonto ist geschlossen',
    AC06: 'das Bankkonto ist gesperrt',
    AG01: 'das Bankkonto lässt keine Lastschriften zu',
    AM04: 'das Konto ist nicht ausreichend gedeckt',
    MD01: 'der Bank liegt kein Mandat vor, oder es wurde dort widerrufen',
    MD07: 'der Kontoinhaber ist verstorben',
    MS02: 'der Lastschrift wurde bei der Bank widersprochen',
    MS03: 'die Bank hat ohne Angabe von Gründen abgelehnt',
  },
  and: 'und',
  fromTo: ({ from, to }) => `${from} bis ${to}`,
  card: ({ network, lastFour }) => `${network} mit den Endziffern ${lastFour}`,
  bankAccount: ({ lastFour }) => `Bankkonto mit den Endziffern ${lastFour}`,
  transfer: 'Online-Überweisung',
  yourCard: ({ card }) => `Ihrer Karte ${card}`,
  yourBankAccount: ({ lastFour }) => `Ihrem Bankkonto mit den Endziffern ${lastFour}`,
  yourTransfer: 'Ihrer Online-Überweisung',
  yourCardOnFile: 'Ihrer hinterlegten Karte',
  onFile: 'hinterlegt',
  unsubscribe: 'Solche Briefe müssen Sie nicht bekommen: hier abbestellen',
};
