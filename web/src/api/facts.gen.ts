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
      "say": "They ask to stop: hands off, the session is over.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "asleep": {
      "group": "fine",
      "key": "a",
      "lay": "",
      "name": "Asleep",
      "say": "Let them sleep. Level 2 at most from now on, because they cannot tell you if it is too much.",
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
      "name": "Bad pain",
      "say": "Is it a good pain or a bad pain? If bad, lighten and shift slightly.",
      "second": "leave",
      "second_say": "Bad pain again: leave this point for today.",
      "then": "lighten"
    },
    "bleeding": {
      "group": "stop",
      "key": "m",
      "lay": "left",
      "name": "Bleeding",
      "say": "Stop. Press on the wound. For bleeding in pregnancy, call the labour ward now. {lay}",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "bracing": {
      "group": "lighten",
      "key": "b",
      "lay": "",
      "name": "Bracing",
      "say": "Lighten one level and wait for an out-breath.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "breathless": {
      "group": "stop",
      "key": "y",
      "lay": "breathless",
      "name": "Breathless",
      "say": "Stop. {lay} Call an ambulance if it does not pass immediately.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "bruise": {
      "group": "lighten",
      "key": "k",
      "lay": "",
      "name": "Bruise",
      "say": "Bruise forming: leave this point for today. Cool it and note it.",
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
      "say": "Stop. Call the labour ward now. {lay} Time how far apart the contractions are.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "dizzy": {
      "group": "stop",
      "key": "d",
      "lay": "faint",
      "name": "Dizzy",
      "say": "Stop. {lay} Stay with them. If no better in a few minutes, call for help.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "faint": {
      "group": "stop",
      "key": "f",
      "lay": "faint",
      "name": "Faint",
      "say": "Stop. {lay} Give fresh air and stay with them. If not awake within a minute, call an ambulance.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "fit": {
      "group": "stop",
      "key": "z",
      "lay": "unconscious",
      "name": "Seizure (fit)",
      "say": "Stop. Move hard objects away, do not hold them down, note the time. Afterwards: {lay} If it lasts over five minutes, or is their first, call an ambulance.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "guarding": {
      "group": "stop",
      "key": "5",
      "lay": "",
      "name": "Abdomen tightens",
      "say": "The abdomen tightens against your hand: stop. Do not press it; they should see a doctor today. With fever or vomiting, call an ambulance.",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "holding_breath": {
      "group": "lighten",
      "key": "h",
      "lay": "",
      "name": "Holding breath",
      "say": "Lighten, and ask for a long out-breath.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "jump": {
      "group": "lighten",
      "key": "j",
      "lay": "",
      "name": "Jump",
      "say": "Too fast or too deep: lighten, and press in more slowly.",
      "second": null,
      "second_say": "",
      "then": "lighten"
    },
    "low_sugar": {
      "group": "stop",
      "key": "l",
      "lay": "sick",
      "name": "Low blood sugar",
      "say": "Stop. If they can swallow, give something sweet, then bread. If confused or no better in ten minutes, call an ambulance. {lay}",
      "second": null,
      "second_say": "",
      "then": "stop_session"
    },
    "lump": {
      "group": "lighten",
      "key": "4",
      "lay": "",
      "name": "A lump",
      "say": "A new lump: leave this point, tell them calmly, and have it checked.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "nauseous": {
      "group": "lighten",
      "key": "n",
      "lay": "sick",
      "name": "Nausea",
      "say": "Stop pressing for a minute. Fresh air, slow breathing. {lay}",
      "second": "stop_session",
      "second_say": "Nausea again: stop for today. {lay}",
      "then": "lighten"
    },
    "numb": {
      "group": "lighten",
      "key": "u",
      "lay": "",
      "name": "Numb",
      "say": "Numbness: leave this point for today, and check the skin.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "own_word": {
      "group": "fine",
      "key": "o",
      "lay": "",
      "name": "In their words",
      "say": "Recorded in their own words.",
      "second": null,
      "second_say": "",
      "then": "none"
    },
    "pulse_felt": {
      "group": "fine",
      "key": "p",
      "lay": "",
      "name": "Pulse",
      "say": "Pulse under the finger: stay until it is even.",
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
      "say": "Sharp pain: release immediately, then press more lightly next to it.",
      "second": "leave",
      "second_say": "Sharp again: leave this point for today.",
      "then": "lighten"
    },
    "shooting_pain": {
      "group": "lighten",
      "key": "e",
      "lay": "",
      "name": "Shooting pain",
      "say": "Shooting pain: a nerve. Leave this point for today.",
      "second": null,
      "second_say": "",
      "then": "leave"
    },
    "sight_or_speech": {
      "group": "stop",
      "key": "v",
      "lay": "unconscious",
      "name": "Vision or speech",
      "say": "Stop. Call an ambulance now and say stroke. Note the time it began. If they become drowsy: {lay}",
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
      "say": "Stay with them, no questions. Ask if your hand may stay where it is; do not add another.",
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
      "name": "Travelling pain",
      "say": "Where does it go? Lighten. If into the chest, arm or jaw, press W. If down a leg or an arm, leave this point.",
      "second": "leave",
      "second_say": "Travelling again: leave this point for today.",
      "then": "lighten"
    },
    "warm": {
      "group": "fine",
      "key": "w",
      "lay": "",
      "name": "Warm",
      "say": "Warmth is spreading: you can leave the point.",
      "second": null,
      "second_say": "",
      "then": "none"
    }
  },
  "release_s": 2.0,
  "sign_words": {
    "eases": "soreness eases",
    "letting_go": "release is felt",
    "pulse": "a pulse is felt",
    "warm": "warmth is felt"
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
      "faint": "Lay them flat and raise their legs.",
      "left": "On the left side.",
      "pressing": "Lay them on their back on the floor.",
      "sick": "Lay them on the side or sit them leaning forward, with a bowl.",
      "still": "Leave them as they are. Do not move the neck.",
      "stroke": "In the position they find easiest, head and shoulders raised. On the side only if they become drowsy or vomit.",
      "unconscious": "Turn them onto their side, head tilted back, mouth facing down."
    },
    "pregnant": false,
    "where": "",
    "who": "An adult"
  },
  "ways": {
    "ease": "One level lighter, hold for half a minute.",
    "firm": "Once more firmly, for five seconds only.",
    "later": "Carry on, and come back to it.",
    "rim": "Circle the rim and work inwards."
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
    "asks_lighter": "They want less: level {level}.",
    "asks_lightest": "They want less, and this is the lightest level. Rest the hand only, or move on.",
    "asleep": "Asleep: level {level} at most until they are awake.",
    "came": "The release has come. Let go slowly.",
    "carry_on": "Easing: {before} to {now}. Carry on as before.",
    "eases": "Easing: {before} to {now}.",
    "enough": "Two rounds are enough for today. Carry on and recheck at the end.",
    "grows": "More sore at the same pressure: leave this point for today.",
    "keeps": "{reaction} at {stops} stops: all remaining stops are one level lighter.",
    "lowered": "New answers: level {level} at most here. {reason}",
    "no_session": "New answers: stop here. {reason}",
    "refused": "New answers: leave this point for today. {reason}",
    "sore": "Sore {now}. {why} {way}",
    "undone": "Undone: {what}.",
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
          "Take your hands off the area. Press a clean cloth on a wound; cool a bruise.",
          "If it does not stop within ten minutes, or they take blood-thinning medicine, call for help."
        ],
        "lay": "",
        "phone": [
          "{who} with bleeding that does not stop.",
          "Any blood-thinning medicine."
        ],
        "then": "stop",
        "title": "Bleeding, or a growing bruise"
      },
      "breathless": {
        "call": true,
        "do": [
          "Call an ambulance now.",
          "{lay}",
          "Loosen the collar and open a window. Let them use their own inhaler or adrenaline pen, if they have one."
        ],
        "lay": "breathless",
        "phone": [
          "{who} with difficulty breathing since the time shown here.",
          "Whether the lips or face are swelling."
        ],
        "then": "stop",
        "title": "Difficulty breathing"
      },
      "chest_pain": {
        "call": true,
        "do": [
          "Take your hands off. Call an ambulance now.",
          "{lay}",
          "Give nothing to eat or drink. Do not let them walk."
        ],
        "lay": "chest",
        "phone": [
          "{who} with chest pain during a massage treatment, since the time shown here.",
          "Age, heart disease, medicines."
        ],
        "then": "stop",
        "title": "Chest pain"
      },
      "cord_signs": {
        "call": true,
        "do": [
          "Take your hands off. Do not press or move the neck or back.",
          "{lay}",
          "This needs hospital care now: call an ambulance."
        ],
        "lay": "still",
        "phone": [
          "{who} with new weakness, numbness between the legs, or loss of bladder or bowel control.",
          "When it began."
        ],
        "then": "stop",
        "title": "New weakness, or loss of bladder or bowel control"
      },
      "fainting": {
        "call": false,
        "do": [
          "Take your hands off.",
          "{lay}",
          "Give fresh air; slow breathing.",
          "If they are on insulin or other blood-sugar medicine and can swallow, give something sweet as well.",
          "If no better in a few minutes, or it returns, call an ambulance."
        ],
        "lay": "faint",
        "phone": [
          "{who} who fainted at the time shown here."
        ],
        "then": "stop",
        "title": "About to faint"
      },
      "fit": {
        "call": true,
        "do": [
          "Do not hold them down. Move hard objects away; put something soft under the head.",
          "Note the time it began. Put nothing in the mouth.",
          "Call an ambulance if it is their first, lasts five minutes, or another follows.",
          "When it is over: {lay}"
        ],
        "lay": "unconscious",
        "phone": [
          "{who} with a seizure that began at the time shown here.",
          "Whether they have had seizures before."
        ],
        "then": "stop",
        "title": "Seizure (fit)"
      },
      "labour": {
        "call": true,
        "do": [
          "Stop. Call the labour ward or the midwife now. For heavy bleeding or a seizure, call an ambulance.",
          "{lay}"
        ],
        "lay": "left",
        "phone": [
          "The week of the pregnancy.",
          "What they noticed, since the time shown here."
        ],
        "then": "stop",
        "title": "In pregnancy"
      },
      "nerve_pain": {
        "call": false,
        "do": [
          "Leave this point for today.",
          "If it is still there after a minute, stop and have it checked."
        ],
        "lay": "",
        "phone": [],
        "then": "leave",
        "title": "Nerve under the hand"
      },
      "no_breath": {
        "call": true,
        "do": [
          "Call an ambulance now and put the phone on speaker.",
          "{lay}",
          "Push hard and fast on the centre of the chest, twice a second.",
          "Get a defibrillator, or send someone for it. Keep going until help takes over."
        ],
        "lay": "pressing",
        "phone": [
          "{who} who does not respond and is not breathing normally.",
          "I am giving chest compressions."
        ],
        "then": "stop",
        "title": "Not breathing normally"
      },
      "no_swallow": {
        "call": true,
        "do": [
          "Give nothing by mouth. Call an ambulance now.",
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
          "Ask what they feel, and note their words.",
          "If in doubt, stop."
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
          "Give nothing to eat or drink. Stay with them and watch their breathing."
        ],
        "lay": "stroke",
        "phone": [
          "{who} with signs of a stroke that began at the time shown here.",
          "Any blood-thinning medicine."
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
          "{who} with a sudden headache or neck pain during a massage treatment, at the time shown here."
        ],
        "then": "stop",
        "title": "Sudden headache or neck pain"
      },
      "sweet": {
        "call": false,
        "do": [
          "Give juice or sugar now, then bread.",
          "{lay}",
          "If they are not clear-headed within ten minutes, call an ambulance."
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
          "Watch their breathing until help arrives. If it stops, start chest compressions."
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
        "ask": "Bleeding, or a growing swelling where you pressed?",
        "no": "nerve",
        "pregnant": false,
        "yes": "bleeds"
      },
      "breath": {
        "ask": "Difficulty breathing, or swelling of the lips or face?",
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
        "ask": "New weakness in an arm or leg, numbness between the legs, or loss of bladder or bowel control?",
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
        "ask": "Sharp or shooting pain, or numbness, where you pressed?",
        "no": "stops",
        "pregnant": false,
        "yes": "nerve_pain"
      },
      "pregnant": {
        "ask": "Bleeding, waters broken, contractions, or a headache with flashing lights?",
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
        "ask": "Face drooping, an arm weak, or sudden change in speech or sight?",
        "no": "breath",
        "pregnant": false,
        "yes": "stroke_signs"
      },
      "sugar": {
        "ask": "Shaking, sweating, confused or suddenly very hungry?",
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
