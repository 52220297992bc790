"""The worked examples that the calculators open with: a week of the made-up club Lanternfell."""

STORIES = {
    "flight": "Tobin's jump at the ice hall, counted frame by frame.",
    "rotation": "Tobin plans one more turn for the next week at the ice hall.",
    "rope": "A ride at the cable lake's boat: which reach is left at the ball?",
    "carve": "A slalom ski in the snow hall, on the edge that Wren reaches.",
    "line": "The course that Alder sets in the snow hall.",
    "stance": "A rider of the snow hall jumped three squats; the board is set at 60 cm.",
    "gybe": "A day at the lake with the wind of the forecast.",
    "poling": "A lap on the roller track, reckoned over fifteen kilometres.",
    "drop": "The first drop of the river park, two metres and a bit.",
    "wheels": "The gravel corner behind the roller track.",
    "camera": "Liesel films from the rope at the snow hall with a phone.",
    "difference": "The better side against the weaker one, six turns and five.",
    "units": "What stands on a visitor's sheet, said in ours.",
    "desk": "Six clips on Ottilie's desk, twenty-five minutes a day.",
}  # fmt: skip
