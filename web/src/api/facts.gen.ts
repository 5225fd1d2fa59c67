/** Written by ./acuthesis client from src/acuthesis/api/facts.py: correct it there. */
export const facts = {
  "codes": {
    "ear_AT124i": "AT1,2,4i",
    "ear_AT234i": "AT2,3,4i",
    "ear_AT34i": "AT3,4i",
    "ear_CO610i": "CO6,10i",
    "ear_CO67i": "CO6,7i",
    "ear_CO910i": "CO9,10i",
    "ear_HX67i": "HX6,7i",
    "ear_LO56i": "LO5,6i",
    "ear_SF12i": "SF1,2i",
    "ear_SF45": "SF4,5",
    "ear_TG12i": "TG1,2i"
  },
  "move_s": 5,
  "positions": {
    "left_side": "on the left side",
    "prone": "face down",
    "right_side": "on the right side",
    "seated": "seated",
    "supine": "face up"
  },
  "pressed": [
    "point",
    "area"
  ],
  "reactions": {
    "asks_to_stop": {
      "name": "Stop",
      "say": "The person asks to stop: hands off, the session is over.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "asleep": {
      "name": "Asleep",
      "say": "Let them sleep; keep the level.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "bracing": {
      "name": "Bracing",
      "say": "Lighten one level and wait for a breath out.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "dizzy": {
      "name": "Dizzy",
      "say": "Stop. Lay the person flat, legs up, and stay. Not better in a few minutes: call for help.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "holding_breath": {
      "name": "Holding breath",
      "say": "Lighten, and ask for a long breath out.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "jump": {
      "name": "Jump",
      "say": "Too fast or too deep: lighten, and enter slower.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "nauseous": {
      "name": "Nauseous",
      "say": "Stop pressing for a minute; fresh air, slow breath.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "numb": {
      "name": "Numb",
      "say": "Numbness: leave this point for today.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "pulse_felt": {
      "name": "Pulse",
      "say": "A pulse under the finger: stay until it is even.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "relaxed": {
      "name": "Relaxed",
      "say": "Good. Stay as you are.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "tearful": {
      "name": "Tearful",
      "say": "Stay. A resting hand, no questions.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "tingling": {
      "name": "Tingling",
      "say": "Lighten and shift a little, away from the nerve.",
      "second": "leave",
      "second_say": "Tingling again: leave this point for today.",
      "then": "lighten"
    },
    "warm": {
      "name": "Warm",
      "say": "Warmth spreads: the point may be left.",
      "second": null,
      "second_say": "",
      "then": "none"
    }
  },
  "sore_enough": 5,
  "surface_prefix": "^(ear|foot|hand|face|scalp|own)2?_",
  "too_sore": 7,
  "words": {
    "ease": "One level lighter, held for half a minute. Then ask again.",
    "eases": "It eases: {before} to {now}.",
    "grows": "It grows at the same pressure: leave this point for today.",
    "lowered": "New answers: level {level} at most here. {reason}",
    "no_session": "New answers: stop here. {reason}",
    "refused": "New answers: leave this point for today. {reason}",
    "rim": "Circle the rim of the sore spot and work inward. Then ask again.",
    "sore": "Sore: lighten and hold (E), circle the rim (R), or come back later (L); then ask again.",
    "very_sore": "Very sore: lighten one level and let it settle, then ask again.",
    "very_sore_twice": "Very sore twice: leave this point for today."
  },
  "worse_by": 2
} as const;
