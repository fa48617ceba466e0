import { Random } from "./random";
import type { Cell } from "./tables";
import { DEMO_NOW, DEMO_START } from "./world";

interface Topic {
  readonly openings: readonly string[];
  readonly details: readonly string[];
}

/** What people write about, by topic. Words like door, code, parcel and locker occur in several, so that no single word decides. */
const TOPICS: Readonly<Record<string, Topic>> = {
  "door stuck": {
    openings: [
      "The door of my compartment does not open",
      "Compartment stays shut, I pushed twice",
      "The latch clicks but the door is stuck",
      "Locker says open and the door does not move",
      "I entered the code and the door is jammed",
    ],
    details: [
      "It only opens a finger wide",
      "The flap is bent",
      "The latch sounds broken",
      "Somebody must have forced it",
      "I tried three times",
    ],
  },
  "code missing": {
    openings: [
      "I never got a code for my parcel",
      "Where do I find the pickup code",
      "The code in the notice is not accepted",
      "No code came, neither by text nor in the app",
      "My code is said to be expired",
    ],
    details: [
      "The door asks for six digits and I have four",
      "The app shows no message",
      "I changed my phone number last week",
      "Please send the code again",
      "The notice went to my old address",
    ],
  },
  "wrong size": {
    openings: [
      "My parcel is too large for the compartment",
      "The item was squeezed in and the box is damaged",
      "It does not fit through the door",
      "You put a large parcel into a small locker",
      "I could not get the parcel out, it is too tight",
    ],
    details: [
      "It got stuck at the frame",
      "Please use a larger compartment",
      "The corners are torn",
      "I had to pull hard",
    ],
  },
  "extend deadline": {
    openings: [
      "Can I collect later, I am away until Monday",
      "Please keep my parcel two more days",
      "Is it possible to extend the deadline",
      "I am ill and cannot come to the locker this week",
      "We are on holiday, please do not send it back",
    ],
    details: [
      "My neighbour can come on Friday",
      "I still have the code",
      "The deadline is tomorrow",
      "I would pay for it",
    ],
  },
  praise: {
    openings: [
      "Works very well, thank you",
      "Quick and easy",
      "The new locker at the station is great",
      "I like that it is open at night",
      "The door opened at once, perfect",
    ],
    details: ["Much better than queueing", "Please put one in our street too", "The app is clear"],
  },
};
const POLITE = ["Hello.", "Good morning.", "Hi there,", "Dear team,", "Hello again,"] as const;
const NEUTRAL = [
  "My parcel number is in the app.",
  "It is about a birthday present.",
  "I stand in front of the locker right now.",
  "Please answer soon.",
  "This is the second time.",
  "Thank you.",
  "Regards",
] as const;

/** A word with two letters in the wrong order, as people type. */
function mistyped(random: Random, text: string): string {
  const words = text.split(" ");
  const at = Math.floor(random.uniform() * words.length);
  const word = words[at] ?? "";
  if (word.length > 4) words[at] = `${word.slice(0, 2)}${word[3] ?? ""}${word[2] ?? ""}${word.slice(4)}`;
  return words.join(" ");
}

/** A message, what it is about, and whether somebody has said so. */
export function oneMessage(random: Random): { readonly body: string; readonly topic: string } {
  const topics = Object.keys(TOPICS);
  const topic = topics[Math.floor(topics.length * random.uniform() ** 1.3)]!;
  return {
    body: bodyOf(
      random,
      topic,
      random.chance(0.12) ? ` ${random.pick(TOPICS[random.pick(topics)]!.details)}.` : "",
    ),
    topic,
  };
}

function bodyOf(random: Random, topic: string, aside: string): string {
  const { openings, details } = TOPICS[topic]!;
  const text =
    [
      random.chance(0.4) ? random.pick(POLITE) : "",
      `${random.pick(openings)}${random.chance(0.2) ? "!" : "."}`,
      random.chance(0.55) ? `${random.pick(details)}.` : "",
      random.chance(0.4) ? random.pick(NEUTRAL) : "",
    ]
      .filter((text) => text !== "")
      .join(" ") + aside;
  if (random.chance(0.25)) return mistyped(random, text);
  if (random.chance(0.06)) return text.toUpperCase();
  return text;
}

/** The topic that somebody noted; a few are wrong. */
const labelOf = (random: Random, topics: readonly string[], topic: string): string =>
  random.chance(0.03) ? random.pick(topics) : topic;

/** Messages to support. Most have a topic that somebody set by hand; a few were set wrongly. */
export function* messageRows(seed: number, scale: number): Iterable<readonly Cell[]> {
  const random = new Random(seed + 13);
  const topics = Object.keys(TOPICS);
  const count = Math.round(4000 * scale);
  for (let index = 0; index < count; index += 1) {
    const topic = topics[Math.floor(topics.length * random.uniform() ** 1.3)]!;
    const sent = new Date(
      DEMO_START.getTime() +
        ((DEMO_NOW.getTime() - DEMO_START.getTime()) * (index + random.uniform())) / count,
    );
    const parcel = 7_000_001 + Math.floor(random.uniform() * 60_000 * scale);
    // Now and then somebody writes of something else as well.
    const aside = random.chance(0.12) ? ` ${random.pick(TOPICS[random.pick(topics)]!.details)}.` : "";
    const body = bodyOf(random, topic, aside);
    yield [
      90_001 + index,
      random.chance(0.1) ? null : parcel,
      sent,
      body,
      random.chance(0.15) ? null : labelOf(random, topics, topic),
    ];
  }
}
