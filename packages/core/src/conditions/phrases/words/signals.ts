/** Words and runs of words, as they are written down here: with commas between them. */
const listed = (text: string): readonly string[] => text.split(',').map((each) => each.trim());

/** `left something at the checkout` */
const LEFT_THINGS: readonly string[] = ['something', 'thing', 'item', 'good', 'stuff', 'an order'].flatMap((what) =>
  [
    'in the basket',
    'in the cart',
    'in the till',
    'in the shop',
    'at the checkout',
    'in the checkout',
    'at the till',
    'in their basket',
    'in their cart',
    'behind at the checkout',
  ].map((where) => `left ${what} ${where}`),
);

/**
 * What people call what the built-in signal types tell of, by the key of the type: verbs in the forms in which they come, and nouns. The verb
 * of the definition itself is always known too.
 */
export const SIGNAL_WORDS: Readonly<Record<string, readonly string[]>> = {
  'order.placed':
    listed(`ordered, order, ordering, bought, buy, buying, purchased, purchase, purchasing, placed, placed their, placed an order, made a purchase, made an order,
    bought something, ordered something, bought anything, ordered anything, shopped, paid for, got an order, buyer, made order`),
  'order.refunded':
    listed(`was refunded, were refunded, refunded, refund, got a refund, got money back, returned an order, sent an order back, returned,
    got their money back, refunded an order, refunded their order, had an order refunded, order was refunded, order refunded, asked for a refund, wanted a refund, wanted their money back`),
  'checkout.left':
    listed(`left the checkout, started the checkout, began the checkout, started checkout, began checkout, started to check out, left checkout, abandoned the checkout, abandoned checkout, abandoned a cart, abandoned their cart, abandoned cart,
    abandoned the basket, abandoned their basket, abandoned basket, left the till, left the basket, left their basket, left the cart,
    left their cart, left at the till, left at checkout, left something in the basket, left something in the cart, left something in their basket,
    left something in their cart, left things in the basket, left items in the basket, left things in the cart, left items in the cart,
    left goods in the basket, abandoned a basket, left a cart, left a basket, walked away from the till`).concat(LEFT_THINGS),
  'plan.started':
    listed(`started a plan, started, began, start a plan, started plan, took a plan, began a plan, subscribed to a plan, took out a plan,
    signed up for a plan, joined a plan, started a membership, took a membership, became a member, bought a membership, began a membership`),
  'plan.renewed':
    listed(`renewed a plan, renew a plan, renewed plan, renewed, renewal, renewed a membership, renewed their membership, renewed their plan,
    extended a plan, renew`),
  'plan.lapsed':
    listed(`let a plan lapse, lapse of a plan, plan lapsed, membership ended, membership has ended, plan has ended, subscription ended, subscription has ended, membership ran out, membership expired, lapsed, lapse, let their plan lapse, plan ended, plan ran out, cancelled a plan,
    cancelled their plan, let a membership lapse, membership lapsed, cancelled a membership, cancelled their membership, stopped a plan,
    plan expired, expired, has expired, have expired, stopped their plan, stopped a membership, stopped their membership, ended their plan, ended a plan, gave up their plan, gave up a plan,
    cancelled, cancelled their, plan stopped, membership stopped, subscription stopped, subscription lapsed, subscription expired, subscription ran out,
    stopped subscription, stopped their subscription, quit their plan, did not renew their plan, dropped their plan`),
  'message.sent':
    listed(`was sent a message, we texted, was texted, were texted, we wrote to, we emailed, we messaged, we mailed, we sent a message, we sent them a message, we sent them an email, sent them a message, sent them an email, received, received from us, were sent a message, got a message, received a message, got an email, got the email, got our email, got the message, got our message, got the newsletter, got a newsletter, received the email, received our email, received the newsletter, received an email, was sent an email, was emailed,
    were emailed, was written to, were written to, been sent a message, been emailed, been sent an email, received a mail, got a mail,
    sent a message, been sent, was sent, were sent, written to, emailed, mailed, messaged, got our newsletter, received our newsletter`),
  'message.bounced': listed(`bounced a message, bounced, bounce, message bounced, email bounced, mail bounced, bounced an email`),
  'message.opened':
    listed(`opened a message, opened, open, opened an email, opened a mail, opened email, opened message, opened any message, opened any email, read,
    read a message, read a newsletter, read our newsletter, read the newsletter, read an email, opened a newsletter, newsletter reader, reader of our newsletter, opened our email,
    opened anything, open a message, open an email, opened one of our messages, opened campaign, opened the campaign`),
  'message.clicked':
    listed(`clicked in a message, clicked, click, clicked a link, clicked on a link, clicked in an email, clicked a message, clicked an email,
    clicked through, followed a link, clicked on, clicked the link, clicked anything, clicked a link in a message, clicked a link in an email,
    chose by a click`),
  'message.replied':
    listed(`replied to a message, replied, reply, answered a message, answered an email, replied to an email, wrote back, responded, responded to a message,
    replied to us, respond, respond to us, reply to us, answered us, answer us, answered our email, answered our emails, answered our message, answered our messages, answered our mail`),
  'message.received':
    listed(`wrote to us, wrote, wrote us, emailed us, chatted with us, wrote to us by chat, sent us a message, sent us an email, mailed us, texted us, wrote an email to us, write to us, contacted us,
    got in touch`),
  'message.unsubscribed':
    listed(`unsubscribed, unsubscribe, opted out by a link, unsubscribed from a message, clicked unsubscribe, left the newsletter,
    unsubscribed from our messages`),
  'page.visited':
    listed(`visited a page, visited, visit, looked at a page, looked at, look at, viewed, view, viewed a page, saw a page, browsed, was on, were on,
    been on the page, visited the page, visited our site, visited the site, looked at the page, page visit, was on the page, came to the site, saw, seen on the site, been seen on the site, seen on the website,
    visited the shop page, been to the page, visited page, saw the page, looks at, on the site, visited our website, visited the website`),
  'file.downloaded': listed(
    `downloaded a file, downloaded, download, got a file, downloaded anything, downloaded the file, fetched a file, took a download`,
  ),
  'event.registered':
    listed(`registered for an event, registered for, registered, register for, signed up for an event, signed up for, signed up to, booked an event, booked,
    booked a seat, registration, signed up, put their name down for, enrolled for, booked a place, book again, book another, book anything, book an event, book a seat, book a place, signed up again, booked again, coming to, will come to, will be at, will attend`),
  'event.attended':
    listed(`attended an event, attended, attend, came to an event, came to, come to an event, come to, went to an event, went to, gone to, was at, were at, took part in, joined an event,
    showed up at, been to, turned up at, took a class, took part, took a course, took a workshop, did a class,
    visited an event, attendance, came along to, been at, turned up, showed up`),
  'event.missed':
    listed(`missed an event, missed, miss, did not come to, no show, failed to turn up, did not show up, was absent, registered but did not come, did not come, never came, did not appear, failed to come,
    did not turn up`),
  'call.made':
    listed(`was called, call, phone call, were called, we called, called by us, been called, got a call, received a call, had a call with us, had a phone call with us, was phoned, were phoned, we phoned, been phoned,
    was rung, spoken to, spoken with, talked to, been spoken to, we spoke to, we spoke with, we talked to, we talked with, spoke to them, spoke with them, talked to them, talked with them, spoken to by us, we rang, talked to by us,
    missed our call, missed our calls, missed a call from us, did not answer our call, didn't answer our call, did not answer our calls, didn't answer our calls,
    never answered our call, never answered our calls, has not answered our call, has not answered our calls,
    answered our call, answered our calls, answered a call, answered a call from us, answered the call, answered the phone, picked up our call, picked up the phone, took our call, took our calls`),
  'call.received': listed(
    `called us, talked to us, talked to us by phone, spoke to us, spoke with us, phoned us, rang us, gave us a call, called, phoned, rang, called in`,
  ),
  'meeting.held': listed(`met with us, met us, had a meeting, meeting, met, sat down with us, had a meeting with us, been in a meeting`),
  'note.added': listed(
    `had a note written, note written, has a note, got a note, note added, we left a note, left a note, wrote a note, we noted something`,
  ),
  'post.reacted': listed(
    `reacted to a post, reacted, liked a post, liked, liked our, liked something, liked one of our posts, commented on a post, commented on, commented on our, shared a post, shared, shared our, shared one of our posts, commented on one of our posts, reacted to our post, reacted on social media, liked our post`,
  ),
  'role.given': listed(`was given a role, given a role, got a role, given the role`),
  'role.taken': listed(`had a role taken, lost a role, role taken, lost the role`),
  'group.joined': listed(`joined a group, joined group, joined the group, came into a group, entered a group`),
  'group.left': listed(`left a group, left group, left the group`),
  'course.started': listed(
    `started a course, started, began, began a course, started course, took up a course, began course, started the course`,
  ),
  'course.finished':
    listed(`finished, finished a course, completed a course, finished course, passed a course, completed course, finished the course, completed the course,
    course completed`),
  'deal.opened': listed(
    `had a deal opened, deal opened, a deal opened, deals opened, deal was opened, a deal was opened, new deal, opened a deal`,
  ),
  'deal.moved': listed(`had a deal moved on, deal moved, deal moved on`),
  'deal.won': listed(`agreed to a deal, won a deal, deal won, agreed deal, closed a deal, had a deal won, signed a deal`),
  'deal.lost': listed(`had a deal lost, lost a deal, deal lost, turned down a deal, said no to a deal`),
  'consent.given':
    listed(`gave consent, consent was given, gave their consent, gave us consent, opted in, agreed to be written to, gave permission, joined the newsletter,
    signed up for the newsletter, signed up to the newsletter, joined our newsletter, signed up for our newsletter`),
  'consent.withdrawn': listed(
    `withdrew consent, opted out, withdrew their consent, took back consent, took their consent back, revoked consent`,
  ),
  'form.answered':
    listed(`answered a form, answered, answer, answering, filled in a form, filled in, filled out, filled out a form, submitted a form, submitted,
    sent in a form, completed a form, completed, replied to the form, took the questionnaire, answered a questionnaire, answered the questionnaire,
    answered the form, filled in the form, said, told us, responded to the form, took the quiz, form answered`),
};

/** All that a contact does, and all that we do towards them. */
export const ANYTHING_WORDS: Readonly<Record<'from them' | 'from us', readonly string[]>> = {
  'from them':
    listed(`did anything, did something, do anything, done anything, was active, were active, is active, are active, active, been active, we heard from,
    showed any sign of life, any activity, activity, moved at all, engaged, engaged with us, signal, any signal, heard from, heard from them, did a thing, heard anything from them,
    got in touch or did anything, been seen, was seen, were seen, seen, been around, was around, showed up at all, been in touch, was in touch, came back, come back, came back to us`),
  'from us':
    listed(`heard from us, heard anything from us, hear from us, contacted by us, contacted, was contacted, were contacted, been contacted, we contacted,
    we reached out to, we wrote to or called, approached by us, we have contacted, touched by us, got anything from us`),
};

/** By which words it is said that nothing of the kind happened: `inactive for 45 days` */
export const NOTHING_WORDS: Readonly<Record<'from them' | 'from us', readonly string[]>> = {
  'from them':
    listed(`did nothing, done nothing, we heard nothing from, we heard nothing from them, heard nothing from them, were inactive, was inactive, inactive,
    silent, dormant, gone quiet, gone silent, no activity, no sign of life, went quiet, no response, not active, nothing from them, unresponsive,
    asleep, went silent, is silent, not engaged, unengaged, nothing heard from, without activity, became inactive, became silent, fell silent, lost touch`),
  'from us':
    listed(`heard nothing from us, got no answer, got no reply, got no response, nothing heard from us, no message from us, no email from us, no mail from us, no word from us, no newsletter from us, neglected, not contacted, no contact from us, left alone, no contact, nothing from us, uncontacted, not been contacted,
    forgotten by us`),
};

/** What money went by: their sum is asked. */
export const SPENT_WORDS = listed(
  `spent, spend, spending, paid, order value, worth of orders, revenue, purchases worth, orders worth, turnover with us, spent in total, total spend, spender, big spender, high spender, top spender, order add up to, order that add up to, purchase add up to, purchase that add up to, order adding up to, order come to, order sum up to, order amount to, order total`,
);

/** How it is said that a plan comes to its end. */
export const PLAN_END_WORDS: readonly string[] = [
  ...[
    'expires',
    'expire',
    'expiring',
    'runs out',
    'run out',
    'renewal due',
    'renewal is due',
    'due for renewal',
    'up for renewal',
    'renewal coming up',
    'due to renew',
  ],
  ...['plan', 'membership', 'subscription'].flatMap((what) =>
    [
      'ends',
      'end',
      'ending',
      'expires',
      'expiring',
      'runs out',
      'running out',
      'is due',
      'due',
      'will end',
      'is up for renewal',
      'up for renewal',
      'comes to an end',
      'is ending',
      'is about to end',
    ].map((how) => `${what} ${how}`),
  ),
];
