/*
 * The texts that users read, in English. Every other language falls back to this table. Each part is an export of its
 * own, so that a page is built with the parts that it uses.
 */
import type {
  AppFailureTexts,
  ConsentTexts,
  FailureTexts,
  FindTexts,
  NearTexts,
  MapTexts,
  PageTexts,
  ServiceFailureTexts,
  ReportTexts,
  SharingTexts,
  WayTexts,
} from './texts.js';

export const failures: FailureTexts = {
  unsupported: {
    happened: 'This device cannot find its position.',
    help: 'Open this page on a phone, or type the place instead.',
  },
  insecure: {
    happened: 'This page cannot ask for your position: its connection is not secure.',
    help: 'Open the page at its https address.',
  },
  forbidden: {
    happened: 'This page cannot ask for your position here.',
    help: 'Open the page in a window of its own.',
  },
  undeclared: {
    happened: 'This app lacks the declaration that it needs to ask for your position.',
    help: 'Tell the makers of this app.',
  },
  'switched-off': {
    happened: 'Location is turned off on this device.',
    help: 'Turn it on in the settings, then try again.',
  },
  refused: {
    happened: 'You did not allow this page to know your position.',
    help: 'Press the button again and choose “Allow”.',
  },
  barred: {
    happened: 'This page is not allowed to know your position.',
    help: 'Allow location for this page in the site settings beside the address, then try again.',
  },
  declined: {
    happened: 'Not now, then. Nothing was asked of your device.',
    help: 'Press the button whenever you are ready.',
  },
  withdrawn: {
    happened: 'The permission to know your position was withdrawn.',
    help: 'Allow location for this page in the site settings beside the address, then try again.',
  },
  'approximate-only': {
    happened: 'Only your approximate position is shared with this page.',
    help: 'Allow the precise position in the settings, or go on without it.',
  },
  'no-signal': {
    happened: 'The device cannot find its position right now.',
    help: 'Go where there is open sky, then try again.',
  },
  'timed-out': {
    happened: 'The device did not find its position in time.',
    help: 'Try again under open sky.',
  },
  unknown: {
    happened: 'Something went wrong while finding your position.',
    help: 'Try again, or tell the makers of this app.',
  },
};

export const appFailures: AppFailureTexts = {
  unsupported: {
    happened: 'This device cannot find its position.',
    help: 'Type the place instead, or use another device.',
  },
  refused: {
    happened: 'You did not allow this app to know your position.',
    help: 'Press the button again and choose “Allow”.',
  },
  barred: {
    happened: 'This app is not allowed to know your position.',
    help: 'Allow location in the app’s settings, then try again.',
  },
  withdrawn: {
    happened: 'The permission to know your position was withdrawn.',
    help: 'Allow location in the app’s settings, then try again.',
  },
  'approximate-only': {
    happened: 'Only your approximate position is shared with this app.',
    help: 'Allow the precise position in the app’s settings, or go on without it.',
  },
};

export const serviceFailures: ServiceFailureTexts = {
  'timed-out': 'The answer did not arrive in time.',
  unreachable: 'The service cannot be reached. Check that you are connected.',
  busy: 'Too many requests were sent. Try again in a moment.',
  failing: 'The service has a problem. Try again later.',
  refused: 'The service refused the request.',
  unfit: 'The service gave an answer that cannot be used.',
  unsupported: 'The service does not answer such a question.',
  unknown: 'Something went wrong with the request.',
};

export const page: PageTexts = {
  beforePrompt: 'Press the button, and choose “Allow” when you are asked.',
  close: 'Close',
};

export const consent: ConsentTexts = {
  title: 'Your position',
  goOn: 'Continue',
  notNow: 'Not now',
  more: 'More about this',
  close: 'Close',
  askAgain: 'Ask again',
  openSettings: 'Open the settings',
  turnOn: 'Turn it on',
};

export const map: MapTexts = {
  label: 'Map',
  controls: 'Map controls',
  ownPlace: 'Own place',
  follow: 'Follow',
  courseUp: 'Course up',
  closer: 'Closer',
  wider: 'Wider',
  showPlace: 'Show my place',
  tryAgain: 'Try again',
  doIt: 'Do it now',
  waitingForAnswer: { happened: 'Waiting for your answer.', help: 'The map shows you once you allow it.' },
  waitingForPosition: {
    happened: 'Waiting for your position.',
    help: 'Under open sky this takes some seconds.',
  },
  noPosition: { happened: 'Your position is not known yet.', help: 'The map shows you once it is.' },
  noSize: 'This map cannot be shown.',
  noBackground: 'This map has no background.',
  tiles: { happened: 'The background of the map cannot be loaded.', help: 'Check that you are connected.' },
  tilesRefused: {
    happened: 'The background of the map is not available to this page.',
    help: 'Tell the makers of this app.',
  },
  crowdedPins: '{count} pins stand at one place; one is drawn.',
  unreadableBackground: 'The background of the map cannot be read.',
  noView: 'This map has nothing to show yet.',
  faulty: 'This map is not set up right.',
  twoFingers: 'Move the map with two fingers.',
  wheelWithKey: 'Hold {key} and turn the wheel to zoom the map.',
  role: 'map',
  keys: 'Arrows move the map, plus and minus zoom, shift and arrows turn, Home goes to the own place.',
  ownPlaceAt: 'own place {place}',
  ownPlaceUnknown: 'own place unknown',
  view: '{length} across, centre {place}',
  turned: '{degrees}° up',
  items: {
    pins: { one: '{count} pin', other: '{count} pins' },
    trails: { one: '{count} trail', other: '{count} trails' },
    lines: { one: '{count} line', other: '{count} lines' },
    fences: { one: '{count} fence', other: '{count} fences' },
    shapes: { one: '{count} shape', other: '{count} shapes' },
    members: { one: '{count} member', other: '{count} members' },
  },
  inside: 'inside {names}',
  states: { late: 'late', asleep: 'asleep', vanished: 'vanished' },
  kite: 'Where you are',
  pin: 'Pin',
  noText: 'without text',
  movable: '{name}, can be moved: Space lifts it',
};

export const find: FindTexts = {
  label: 'Find a place',
  nothing: 'No place has this name.',
  similar: 'No place has this name. Similar names:',
  position: 'Position',
  here: 'Where I am',
  finding: 'Finding your place…',
};

export const near: NearTexts = {
  label: 'Near you',
  nothing: 'Nothing is near.',
  unknown: 'Not known yet: this device has not found your place.',
  looking: 'Looking…',
  open: 'open now',
  closed: 'closed now',
  openUntil: 'open until {time}',
  closedUntil: 'closed until {time}',
};

export const ways: WayTexts = {
  turns: {
    start: { plain: 'Set out', onto: 'Set out on {lane}' },
    straight: { plain: 'Go straight on', onto: 'Go straight on along {lane}' },
    'slight-left': { plain: 'Keep left', onto: 'Keep left onto {lane}' },
    left: { plain: 'Turn left', onto: 'Turn left onto {lane}' },
    'sharp-left': { plain: 'Turn sharp left', onto: 'Turn sharp left onto {lane}' },
    'slight-right': { plain: 'Keep right', onto: 'Keep right onto {lane}' },
    right: { plain: 'Turn right', onto: 'Turn right onto {lane}' },
    'sharp-right': { plain: 'Turn sharp right', onto: 'Turn sharp right onto {lane}' },
    back: { plain: 'Turn round', onto: 'Turn round on {lane}' },
    via: { plain: 'Pass the place on the way', onto: 'Pass the place on the way, and go on along {lane}' },
    arrive: { plain: 'You have arrived', onto: 'You have arrived, on {lane}' },
  },
  kinds: {
    road: 'a road',
    street: 'a street',
    lane: 'a lane',
    track: 'a track',
    path: 'a path',
    steps: 'steps',
  },
  step: '{text}, {length}',
  noWay: 'No way leads there. The nearest place that can be reached is {length} from it.',
  offNetwork: 'There is no lane near. The nearest is {length} away.',
};

export const sharing: SharingTexts = {
  recipients: 'Seen by {recipients}.',
  exact: 'They see the exact place.',
  rounded: 'They see the place rounded to {length}.',
  veiled: 'Places in your private areas are not sent.',
  noTrail: 'They do not see where you were before.',
  trail: 'They see your path of the last {duration}.',
  noLimit: 'Sharing goes on until you switch it off.',
  endsAfter: 'Sharing ends by itself after {duration}.',
  endsIn: 'Sharing ends by itself in {duration}.',
  cleanedUp: 'Closing this app removes your place.',
  vanished:
    'If this device loses its power or its network, they are told within {vanishedAfter} that you ' +
    'vanished, and they see your last place for {retention}.',
};

export const report: ReportTexts = {
  trail: 'Trail',
  when: '{start} to {end}',
  figures: {
    distance: 'Distance',
    duration: 'Duration',
    moving: 'Moving',
    resting: 'Resting',
    averageSpeed: 'Average speed',
    movingSpeed: 'Moving speed',
    pace: 'Pace in motion',
    topSpeed: 'Top speed',
    climb: 'Climb',
    descent: 'Descent',
    fixes: 'Fixes',
    gaps: 'Gaps',
    stops: 'Stops',
    rawDistance: 'Raw distance',
    slope: 'Along the slope',
    points: 'Points',
  },
  line: 'Line',
  noTimes: 'The points have no times: duration, speeds, stops and gaps cannot be known.',
  none: 'none',
  gapRemark: {
    one: 'The path is unknown for {duration} in {count} gap: this time is counted in the duration only.',
    other: 'The path is unknown for {duration} in {count} gaps: this time is counted in the duration only.',
  },
  veilRemark: {
    one: '{count} part was cut out before export; the figures are those of the rest.',
    other: '{count} parts were cut out before export; the figures are those of the rest.',
  },
  filterRemark: 'The distance is measured without the noise; the plain sum from fix to fix is {distance}.',
  noBackground: 'No background',
  profiles: 'Profiles',
  measuredLine: 'thin line: as measured',
  noHeight: 'No height is known.',
  heightOverDistance: 'Height over distance',
  heightOverTime: 'Height over time',
  speedOverDistance: 'Speed over distance',
  speedOverTime: 'Speed over time',
  range: 'From {low} to {high} {unit}.',
  distanceAxis: 'distance, {unit}',
  timeAxis: 'time since the start, h:min',
  aboveSea: 'above the sea',
  aboveEllipsoid: 'above the ellipsoid',
  splits: 'Splits of {length}',
  split: 'Split',
  time: 'Time',
  pace: 'Pace',
  up: 'Up',
  down: 'Down',
  speedInMotion: 'Speed in motion',
  stops: 'Stops',
  from: 'From',
  duration: 'Duration',
  where: 'Where',
  fences: 'Fences',
  noFence: 'None was entered.',
  timeInFences: 'Time in each fence',
  fence: 'Fence',
  inside: 'Inside',
  visits: 'Visits',
  crossings: 'Crossings',
  kind: 'Kind',
  certainty: 'Certainty',
  kinds: {
    initial: 'initial',
    enter: 'enter',
    exit: 'exit',
    linger: 'linger',
    pass: 'pass',
    closed: 'closed',
  },
  definitions: [
    [
      'Distance',
      'is the length of the path on the ellipsoid, without its noise and without rests. Where fixes are too few or ' +
        'too far apart, it is the sum from fix to fix. Along the slope, the heights count too.',
    ],
    ['Moving', 'is the time at 0.4 m/s or more. Resting is the other time, without gaps.'],
    [
      'Average speed',
      'is the distance divided by the duration. Moving speed and pace are for the time in motion.',
    ],
    ['Top speed', 'is the highest speed over two fixes in a row; a single outlier does not count.'],
    ['Climb', 'and descent count rises and falls of 5 to 14 m or more, as the noise of the heights demands.'],
    ['Gaps', 'are pauses, and silences that are long beside the usual time between fixes.'],
    ['Stops', 'are rests of a minute or more, each at the mean of its positions.'],
    ['Profiles', 'show means of neighbouring fixes; they are broken where nothing is known.'],
    [
      'Crossings',
      'are reported when the accuracy makes them certain enough, with the time at which the path cut the edge.',
    ],
  ],
};
