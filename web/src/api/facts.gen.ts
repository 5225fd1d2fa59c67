/** Written by ./acuthesis client from src/acuthesis/api/facts.py: correct it there. */
export const facts = {
  "asleep_most": 2,
  "breath": {
    "in_share": 0.4,
    "seconds": 7.5
  },
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
    "ear_TG12i": "TG1,2i",
    "scalp_line_1": "MS1",
    "scalp_line_10": "MS10",
    "scalp_line_11": "MS11",
    "scalp_line_12": "MS12",
    "scalp_line_13": "MS13",
    "scalp_line_14": "MS14",
    "scalp_line_2": "MS2",
    "scalp_line_3": "MS3",
    "scalp_line_4": "MS4",
    "scalp_line_5": "MS5",
    "scalp_line_6": "MS6",
    "scalp_line_7": "MS7",
    "scalp_line_8": "MS8",
    "scalp_line_9": "MS9"
  },
  "keeps_coming": 3,
  "look": {
    "core_worth": 2,
    "side_s": 35
  },
  "loop": {
    "ease_s": 30.0,
    "eased_by": 2,
    "firm_most": 6,
    "firm_s": 5.0,
    "hardly": 2,
    "rim_s": 24.0,
    "rounds": 2
  },
  "most_past": 8,
  "move_s": 5,
  "positions": {
    "half_reclined": "half reclined",
    "leaning": "seated, leaning forward on cushions",
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
  "reaction_order": [
    "relaxed",
    "warm",
    "pulse_felt",
    "asleep",
    "awake",
    "tearful",
    "own_word",
    "bracing",
    "jump",
    "holding_breath",
    "tingling",
    "sharp_pain",
    "shooting_pain",
    "numb",
    "nauseous",
    "bruise",
    "bad_pain",
    "travelling_pain",
    "lump",
    "guarding",
    "asks_to_stop",
    "dizzy",
    "faint",
    "low_sugar",
    "breathless",
    "chest_pain",
    "sudden_headache",
    "sight_or_speech",
    "fit",
    "bleeding",
    "contractions"
  ],
  "reactions": {
    "asks_to_stop": {
      "group": "stop",
      "key": "x",
      "lay": "",
      "name": "Asks to stop",
      "say": "The person asks to stop: hands off, the session is over.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "asleep": {
      "group": "fine",
      "key": "a",
      "lay": "",
      "name": "Asleep",
      "say": "Let them sleep: level 2 at most from here on, for they cannot say what is too much.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "awake": {
      "group": "fine",
      "key": "g",
      "lay": "",
      "name": "Awake again",
      "say": "Awake: ask how it is before pressing deeper.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "bad_pain": {
      "group": "lighten",
      "key": "2",
      "lay": "",
      "name": "A bad pain",
      "say": "A good pain or a bad one? Bad: lighten, and shift a little.",
      "second": "leave",
      "second_say": "A bad pain again: leave this point for today.",
      "then": "lighten"
    },
    "bleeding": {
      "group": "stop",
      "key": "m",
      "lay": "left",
      "name": "Bleeding",
      "say": "Stop. Press on a wound. Bleeding in pregnancy: call the labour ward now. {lay}",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "bracing": {
      "group": "lighten",
      "key": "b",
      "lay": "",
      "name": "Bracing",
      "say": "Lighten one level and wait for a breath out.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "breathless": {
      "group": "stop",
      "key": "y",
      "lay": "breathless",
      "name": "Breathless",
      "say": "Stop. {lay} Call an ambulance if it does not pass at once.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "bruise": {
      "group": "lighten",
      "key": "k",
      "lay": "",
      "name": "Bruise",
      "say": "A bruise comes: hands off this point for today; cool it, and write it down.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "chest_pain": {
      "group": "stop",
      "key": "c",
      "lay": "chest",
      "name": "Chest pain",
      "say": "Stop. Call an ambulance now. {lay} Nothing to eat or drink; stay with them.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "contractions": {
      "group": "stop",
      "key": "1",
      "lay": "left",
      "name": "Contractions",
      "say": "Stop. Call the labour ward now. {lay} Count how far apart they are.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "dizzy": {
      "group": "stop",
      "key": "d",
      "lay": "faint",
      "name": "Dizzy",
      "say": "Stop. {lay} Stay with them. Not better in a few minutes: call for help.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "faint": {
      "group": "stop",
      "key": "f",
      "lay": "faint",
      "name": "Faint",
      "say": "Stop. {lay} Fresh air, stay with them. Not awake within a minute: call an ambulance.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "fit": {
      "group": "stop",
      "key": "z",
      "lay": "unconscious",
      "name": "Fit",
      "say": "Stop. Clear what is hard away, hold nobody down, note the time. Afterwards: {lay} Longer than five minutes, or the first one: call an ambulance.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "guarding": {
      "group": "stop",
      "key": "5",
      "lay": "",
      "name": "Belly tightens",
      "say": "The belly tightens against the hand: stop. Nobody presses it; see a doctor today. With fever or vomiting: call an ambulance.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "holding_breath": {
      "group": "lighten",
      "key": "h",
      "lay": "",
      "name": "Holding breath",
      "say": "Lighten, and ask for a long breath out.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "jump": {
      "group": "lighten",
      "key": "j",
      "lay": "",
      "name": "Jump",
      "say": "Too fast or too deep: lighten, and enter slower.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "low_sugar": {
      "group": "stop",
      "key": "l",
      "lay": "sick",
      "name": "Low sugar",
      "say": "Stop. Something sweet if they can swallow, then bread. Confused, or not better in ten minutes: call an ambulance. {lay}",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "lump": {
      "group": "lighten",
      "key": "4",
      "lay": "",
      "name": "A lump",
      "say": "A lump that was not there: leave this point, say so calmly, and have it looked at.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "nauseous": {
      "group": "lighten",
      "key": "n",
      "lay": "sick",
      "name": "Nausea",
      "say": "Stop pressing for a minute; fresh air, slow breath. {lay}",
      "second": "stop_session",
      "second_say": "Nausea again: stop for today. {lay}",
      "then": "lighten"
    },
    "numb": {
      "group": "lighten",
      "key": "u",
      "lay": "",
      "name": "Numb",
      "say": "Numbness: leave this point for today, and look at the skin.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "own_word": {
      "group": "fine",
      "key": "o",
      "lay": "",
      "name": "Their own word",
      "say": "Kept in their own words.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "pulse_felt": {
      "group": "fine",
      "key": "p",
      "lay": "",
      "name": "Pulse",
      "say": "A pulse under the finger: stay until it is even.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "relaxed": {
      "group": "fine",
      "key": "r",
      "lay": "",
      "name": "Relaxed",
      "say": "Good. Stay as you are.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "sharp_pain": {
      "group": "lighten",
      "key": "s",
      "lay": "",
      "name": "Sharp pain",
      "say": "Sharp: off the spot at once, then lighter beside it.",
      "second": "leave",
      "second_say": "Sharp again: leave this point for today.",
      "then": "lighten"
    },
    "shooting_pain": {
      "group": "lighten",
      "key": "e",
      "lay": "",
      "name": "Shooting pain",
      "say": "It shoots: a nerve. Leave this point for today.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "sight_or_speech": {
      "group": "stop",
      "key": "v",
      "lay": "unconscious",
      "name": "Sight or speech",
      "say": "Stop. Call an ambulance now and say stroke. Note the time it began. If they grow drowsy: {lay}",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "sudden_headache": {
      "group": "stop",
      "key": "q",
      "lay": "still",
      "name": "Sudden headache",
      "say": "Stop. Call an ambulance now. {lay} Note the time.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "tearful": {
      "group": "fine",
      "key": "t",
      "lay": "",
      "name": "Tears",
      "say": "Stay with them, no questions. Ask whether the hand may stay where it is; lay no other hand on.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "tingling": {
      "group": "lighten",
      "key": "i",
      "lay": "",
      "name": "Tingling",
      "say": "Lighten and shift a little, away from the nerve.",
      "second": "leave",
      "second_say": "Tingling again: leave this point for today.",
      "then": "lighten"
    },
    "travelling_pain": {
      "group": "lighten",
      "key": "3",
      "lay": "",
      "name": "Pain that travels",
      "say": "Where does it go? Lighten. Into chest, arm or jaw: press W. Down a leg or an arm: leave this point.",
      "second": "leave",
      "second_say": "It travels again: leave this point for today.",
      "then": "lighten"
    },
    "warm": {
      "group": "fine",
      "key": "w",
      "lay": "",
      "name": "Warm",
      "say": "Warmth spreads: the point may be left.",
      "second": null,
      "second_say": "",
      "then": "none"
    }
  },
  "release_s": 2.0,
  "sign_words": {
    "eases": "it eases",
    "letting_go": "it lets go",
    "pulse": "a pulse shows",
    "warm": "it is warm"
  },
  "sore_enough": 5,
  "surface_prefix": "^(ear|foot|hand|face|scalp|own)2?_",
  "textures": [
    "hollow",
    "cord",
    "knot",
    "grit",
    "hard",
    "soft",
    "warm",
    "cold"
  ],
  "too_sore": 7,
  "usual_help": {
    "call": "",
    "lay": {
      "breathless": "Sit them up, leaning forward on their arms, legs down.",
      "chest": "Half sitting, back supported, knees bent.",
      "faint": "Lay them flat, legs up.",
      "left": "On the left side.",
      "pressing": "On the back on the floor.",
      "sick": "On the side, or sitting forward, a bowl beside them.",
      "still": "Leave them as they lie; do not move the neck.",
      "stroke": "Lying as they find it easiest, head and shoulders raised; on the side only if they grow drowsy or vomit.",
      "unconscious": "Turn them on the side, head tilted back, mouth down."
    },
    "pregnant": false,
    "where": "",
    "who": "An adult"
  },
  "ways": {
    "ease": "One level lighter, held for half a minute.",
    "firm": "Once firmer, five seconds, no more.",
    "later": "Carry on, and come back to it.",
    "rim": "Circle the rim and work inward."
  },
  "whys": {
    "again": "Not enough yet.",
    "area": "An area: the rim first.",
    "hand": "",
    "helped": "It helped here before.",
    "mild": "Not much.",
    "school": "As {school} works.",
    "usual": "",
    "very": "Very sore."
  },
  "words": {
    "as_before": "Press as before, level {level}: how is it now?",
    "as_planned": "Levels as planned again.",
    "asks_lighter": "They ask for less: level {level}.",
    "asks_lightest": "They ask for less, and this is the lightest: only rest the hand, or go on.",
    "asleep": "Asleep: level {level} at most until they are awake.",
    "came": "It came: let go slowly.",
    "carry_on": "It eases: {before} to {now}. Carry on as before.",
    "eases": "It eases: {before} to {now}.",
    "enough": "Twice is enough for today: carry on, and look again at the end.",
    "grows": "It grows at the same pressure: leave this point for today.",
    "keeps": "{reaction} at {stops} stops: everything still to come is one level lighter.",
    "lowered": "New answers: level {level} at most here. {reason}",
    "no_session": "New answers: stop here. {reason}",
    "refused": "New answers: leave this point for today. {reason}",
    "sore": "Sore {now}. {why} {way}",
    "undone": "Taken back: {what}.",
    "very_sore_twice": "Very sore twice: leave this point for today."
  },
  "worse_by": 2,
  "wrong": {
    "first": "answers",
    "outcomes": {
      "asked": {
        "call": false,
        "do": [
          "Take your hands off. The session is over; ask what they need."
        ],
        "lay": "",
        "phone": [],
        "then": "stop",
        "title": "They ask to stop"
      },
      "bleeds": {
        "call": false,
        "do": [
          "Take your hands off the place. Press a clean cloth on a wound; cool a bruise.",
          "Call for help if it does not stop in ten minutes, or with a blood thinner."
        ],
        "lay": "",
        "phone": [
          "{who} with bleeding that does not stop.",
          "Medicines that thin the blood."
        ],
        "then": "stop",
        "title": "Bleeding, or a growing bruise"
      },
      "breathless": {
        "call": true,
        "do": [
          "Call an ambulance now.",
          "{lay}",
          "Loosen the collar, open a window. Their own inhaler or adrenaline pen, if they have one."
        ],
        "lay": "breathless",
        "phone": [
          "{who} who has had trouble breathing since the time on the screen.",
          "Whether lips or face are swelling."
        ],
        "then": "stop",
        "title": "Hard to breathe"
      },
      "chest_pain": {
        "call": true,
        "do": [
          "Take your hands off. Call an ambulance now.",
          "{lay}",
          "Nothing to eat or drink. They do not walk."
        ],
        "lay": "chest",
        "phone": [
          "{who} with chest pain since the time on the screen, during a massage.",
          "Age, heart disease, medicines."
        ],
        "then": "stop",
        "title": "Chest pain"
      },
      "cord_signs": {
        "call": true,
        "do": [
          "Take your hands off. Nobody presses or moves neck or back.",
          "{lay}",
          "This needs a hospital now: call an ambulance."
        ],
        "lay": "still",
        "phone": [
          "{who} with new weakness, numbness between the legs, or no control of bladder or bowel.",
          "When it began."
        ],
        "then": "stop",
        "title": "New weakness, or no control of bladder or bowel"
      },
      "fainting": {
        "call": false,
        "do": [
          "Take your hands off.",
          "{lay}",
          "Fresh air, slow breaths.",
          "On insulin or another medicine for sugar: something sweet as well, if they can swallow.",
          "Call an ambulance if it is not better in a few minutes, or comes back."
        ],
        "lay": "faint",
        "phone": [
          "{who} who fainted at the time on the screen."
        ],
        "then": "stop",
        "title": "About to faint"
      },
      "fit": {
        "call": true,
        "do": [
          "Do not hold them down. Clear hard things away; something soft under the head.",
          "Note the time it began. Put nothing into the mouth.",
          "Call an ambulance if it is the first, lasts five minutes, or another follows.",
          "When it is over: {lay}"
        ],
        "lay": "unconscious",
        "phone": [
          "{who} with a fit; it began at the time on the screen.",
          "Whether they have had fits before."
        ],
        "then": "stop",
        "title": "A fit"
      },
      "labour": {
        "call": true,
        "do": [
          "Stop. Call the labour ward or the midwife now; an ambulance for heavy bleeding or a fit.",
          "{lay}"
        ],
        "lay": "left",
        "phone": [
          "The week of the pregnancy.",
          "What they noticed, since the time on the screen."
        ],
        "then": "stop",
        "title": "In pregnancy"
      },
      "nerve_pain": {
        "call": false,
        "do": [
          "Leave this point for today.",
          "If it is still there after a minute, stop, and have it examined."
        ],
        "lay": "",
        "phone": [],
        "then": "leave",
        "title": "A nerve under the hand"
      },
      "no_breath": {
        "call": true,
        "do": [
          "Call an ambulance now, phone on loudspeaker.",
          "{lay}",
          "Press hard and fast in the middle of the chest, twice a second.",
          "Send somebody for a defibrillator. Do not stop until help takes over."
        ],
        "lay": "pressing",
        "phone": [
          "{who} who does not respond and is not breathing normally.",
          "I am pressing the chest."
        ],
        "then": "stop",
        "title": "Not breathing normally"
      },
      "no_swallow": {
        "call": true,
        "do": [
          "Put nothing into the mouth. Call an ambulance now.",
          "{lay}"
        ],
        "lay": "unconscious",
        "phone": [
          "{who} with low blood sugar who cannot swallow.",
          "Whether they are on insulin."
        ],
        "then": "stop",
        "title": "Low blood sugar, cannot swallow"
      },
      "other": {
        "call": false,
        "do": [
          "Ask what they feel, and write down their words.",
          "In doubt, stop."
        ],
        "lay": "",
        "phone": [],
        "then": "go_on",
        "title": "None of these"
      },
      "stroke_signs": {
        "call": true,
        "do": [
          "Call an ambulance now and say stroke.",
          "{lay}",
          "Nothing to eat or drink. Stay with them and watch the breathing."
        ],
        "lay": "stroke",
        "phone": [
          "{who} with signs of a stroke; they began at the time on the screen.",
          "Medicines that thin the blood."
        ],
        "then": "stop",
        "title": "Signs of a stroke"
      },
      "sudden_headache": {
        "call": true,
        "do": [
          "Take your hands off head and neck. Call an ambulance now.",
          "{lay}"
        ],
        "lay": "still",
        "phone": [
          "{who} with a sudden headache or neck pain during a massage, at the time on the screen."
        ],
        "then": "stop",
        "title": "Sudden headache or neck pain"
      },
      "sweet": {
        "call": false,
        "do": [
          "Juice or sugar now, then bread.",
          "{lay}",
          "Call an ambulance if they are not clear-headed within ten minutes."
        ],
        "lay": "sick",
        "phone": [
          "{who} with low blood sugar, perhaps on insulin."
        ],
        "then": "stop",
        "title": "Low blood sugar"
      },
      "unconscious": {
        "call": true,
        "do": [
          "Take your hands off. Call an ambulance now.",
          "{lay}",
          "Watch the breathing until help is there. If it stops, press the chest."
        ],
        "lay": "unconscious",
        "phone": [
          "{who} who is breathing and does not respond."
        ],
        "then": "stop",
        "title": "Breathing, but does not respond"
      }
    },
    "questions": {
      "answers": {
        "ask": "Do they answer when you speak to them?",
        "no": "jerking",
        "pregnant": false,
        "yes": "chest"
      },
      "bleeding": {
        "ask": "Bleeding, or a swelling that grows where you pressed?",
        "no": "nerve",
        "pregnant": false,
        "yes": "bleeds"
      },
      "breath": {
        "ask": "Is it hard for them to breathe, or are lips and face swelling?",
        "no": "headache",
        "pregnant": false,
        "yes": "breathless"
      },
      "breathing": {
        "ask": "Are they breathing normally?",
        "no": "no_breath",
        "pregnant": false,
        "yes": "unconscious"
      },
      "chest": {
        "ask": "Pain or pressure in the chest, or into an arm or the jaw?",
        "no": "stroke",
        "pregnant": false,
        "yes": "chest_pain"
      },
      "cord": {
        "ask": "New weakness in an arm or a leg, numbness between the legs, or no control of bladder or bowel?",
        "no": "pregnant",
        "pregnant": false,
        "yes": "cord_signs"
      },
      "faint": {
        "ask": "Pale, dizzy, sick, or about to faint?",
        "no": "sugar",
        "pregnant": false,
        "yes": "fainting"
      },
      "headache": {
        "ask": "A sudden headache, or new neck pain with dizziness?",
        "no": "cord",
        "pregnant": false,
        "yes": "sudden_headache"
      },
      "jerking": {
        "ask": "Are arms and legs jerking?",
        "no": "breathing",
        "pregnant": false,
        "yes": "fit"
      },
      "nerve": {
        "ask": "Sharp, shooting or numb where you pressed?",
        "no": "stops",
        "pregnant": false,
        "yes": "nerve_pain"
      },
      "pregnant": {
        "ask": "Bleeding, waters, contractions, or a headache with flashing lights?",
        "no": "faint",
        "pregnant": true,
        "yes": "labour"
      },
      "stops": {
        "ask": "Do they want to stop?",
        "no": "other",
        "pregnant": false,
        "yes": "asked"
      },
      "stroke": {
        "ask": "A drooping face, a weak arm, or speech or sight suddenly different?",
        "no": "breath",
        "pregnant": false,
        "yes": "stroke_signs"
      },
      "sugar": {
        "ask": "Trembling, sweating, confused or suddenly very hungry?",
        "no": "bleeding",
        "pregnant": false,
        "yes": "swallow"
      },
      "swallow": {
        "ask": "Can they swallow safely?",
        "no": "no_swallow",
        "pregnant": false,
        "yes": "sweet"
      }
    }
  }
} as const;
