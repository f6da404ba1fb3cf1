/** Words of the trade, in a sentence or two. */
export const TERMS = {
  mired: 'A million over the colour temperature in kelvin. Equal steps look about alike, and filters are named by it: 5600 K is 179 mired, 3200 K is 313, and a filter of +134 mired turns the one into the other. Positive is warmer.',
  hardness:
    'By the angle a light fills as the subject sees it, which is what a shadow’s edge shows: hard under 2°, crisp to 10°, medium to 30°, soft to 60°. Wrap, over 60°: so large that it reaches round the form, and shadows have no edge of their own.',
  Duv: 'How far a colour lies off the line of daylight and glowing lamps: positive is greener, negative pinker. No change of temperature takes it away.',
  room: 'All light that comes to the subject, from every side, as a mirror ball shows it and a matte ball weighs it; a face tells where it comes from in the mean. Directional: 0 from all around, 1 from one point.',
  sun: 'Where the sun stands at a place and a time: so many degrees on the compass, from true north over east, and so many above the horizon. A compass in a telephone is off by five to fifteen degrees; near iron by more.',
  contrast: 'What two patches of one material show, lit side over shadow side, in stops: it depends on where they are. The lighting ratio is what a meter at the subject would show.',
} as const
