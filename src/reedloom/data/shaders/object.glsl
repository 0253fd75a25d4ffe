// The camera, the bare objects, and how the tile lies on them. Which object is fixed when compiling
// (OBJECT: 0 sheet, 1 cube, 2 ball, 3 cylinder, 4 cloth), so that no pixel pays for the others.
// Numbers that are uniforms here and in both passes, one to a line, are handed on by the corners: lit/shaders.py.
uniform vec3 rays[3];          // that of the lower left pixel, and what each pixel to the right and upward adds
uniform vec3 eye;
uniform float repeats;
uniform float aspect;          // the tile's height in widths
uniform float depth;           // from height 0 to height 1, in object units
uniform float lift;            // from the least height to the greatest, in object units; 0 where there are none
uniform float middle;          // the height that stays at the object's surface, least to greatest as 0 to 1
uniform float crest;           // how high the relief goes above the bare object
uniform sampler2D relief_map;  // heights from 0 to 1, read without smaller pictures

const float PI = 3.14159265359;

vec3 ray() {
    vec2 at = floor(gl_FragCoord.xy);
    return normalize(rays[0] + at.x * rays[1] + at.y * rays[2]);
}

// How far the shell of the relief reaches outward of the bare object.
float outward() { return crest + 1e-4; }

#if OBJECT == 0
const float SPAN = 2.0;        // object units across the object, which `repeats` tiles share
const float EDGE = 1.0;        // where the object ends, across and along
float body(vec3 p) { return p.y; }
vec3 body_normal(vec3 p) { return vec3(0, 1, 0); }
float border(vec3 p, float bare) { return max(max(abs(p.x), abs(p.z)) - EDGE, -0.06 - depth - bare); }
const float WITHIN = 1.42;     // the radius of a ball that has all of the bare object in it
#elif OBJECT == 1
const float SPAN = 1.56;
float body(vec3 p) { vec3 q = abs(p) - 0.62; return length(max(q, 0.0)) + min(max(q.x, max(q.y, q.z)), 0.0) - 0.16; }
vec3 body_normal(vec3 p) { return normalize(max(abs(p) - 0.62, 1e-4) * sign(p)); }
float border(vec3 p, float bare) { return -1e9; }
const float WITHIN = 1.24;
#elif OBJECT == 2
const float SPAN = PI;
float body(vec3 p) { return length(p) - 1.0; }
vec3 body_normal(vec3 p) { return normalize(p); }
float border(vec3 p, float bare) { return -1e9; }
#elif OBJECT == 3
const float SPAN = 2.2;
float body(vec3 p) {
    vec2 q = vec2(length(p.xz) - 0.62, abs(p.y) - 0.82);
    return length(max(q, 0.0)) + min(max(q.x, q.y), 0.0) - 0.08;
}
vec3 body_normal(vec3 p) {
    float r = max(length(p.xz), 1e-5);
    vec2 q = normalize(max(vec2(r - 0.62, abs(p.y) - 0.82), 1e-4));
    return vec3(p.x / r * q.x, sign(p.y) * q.y, p.z / r * q.x);
}
float border(vec3 p, float bare) { return -1e9; }
const float WITHIN = 1.15;
#else
const float SPAN = 2.1;
const float EDGE = 1.05;
float hang(vec2 p) { // the folds of the cloth
    return 0.16 * sin(2.6 * p.x + 0.9 * sin(1.7 * p.y)) + 0.09 * cos(3.3 * p.y - 1.1 * p.x) - 0.10 * dot(p, p);
}
float body(vec3 p) { return (p.y - hang(p.xz)) * 0.78; }
vec3 body_normal(vec3 p) {
    float a = cos(2.6 * p.x + 0.9 * sin(1.7 * p.z)), b = sin(3.3 * p.z - 1.1 * p.x);
    return normalize(vec3(-0.416 * a - 0.099 * b + 0.2 * p.x, 1.0, -0.16 * a * 1.53 * cos(1.7 * p.z) + 0.297 * b + 0.2 * p.z));
}
float border(vec3 p, float bare) { return max(max(abs(p.x), abs(p.z)) - EDGE, -bare - (0.05 + depth) * 0.78); }
const float WITHIN = 1.63;
#endif

// Where a point of the object lies in widths of the tile; v runs down.
vec2 unroll(vec3 p) {
#if OBJECT == 0
    return (p.xz * 0.5 + 0.5) * repeats;
#elif OBJECT == 4
    return (p.xz / SPAN + 0.5) * repeats;
#elif OBJECT == 1
    vec3 a = abs(p), s = sign(p);
    vec2 q = a.x > max(a.y, a.z) ? vec2(-s.x * p.z, -p.y) : a.z > a.y ? vec2(s.z * p.x, -p.y) : vec2(p.x, s.y * p.z);
    return (q / SPAN + 0.5) * repeats;
#elif OBJECT == 2
    return vec2(-atan(p.z, p.x), acos(clamp(p.y / max(length(p), 1e-6), -1.0, 1.0))) / PI * repeats;
#else
    bool lid = abs(p.y) - 0.82 > length(p.xz) - 0.62;
    vec2 q = lid ? vec2(p.x, sign(p.y) * p.z) / SPAN + 0.5 : vec2(-atan(p.z, p.x) / PI, 0.5 - p.y / SPAN);
    return q * repeats;
#endif
}

// Where on the tile a point of the object lies.
vec2 unwrap(vec3 p) { return unroll(p) / vec2(1.0, aspect); }

// How the tile's u and upward v run there, as unit directions.
void directions(vec3 p, out vec3 along_u, out vec3 along_v) {
    along_u = vec3(1, 0, 0); along_v = vec3(0, 0, -1);
#if OBJECT == 1
    vec3 a = abs(p), s = sign(p);
    if (a.x > max(a.y, a.z)) { along_u = vec3(0, 0, -s.x); along_v = vec3(0, 1, 0); }
    else if (a.z > a.y) { along_u = vec3(s.z, 0, 0); along_v = vec3(0, 1, 0); }
    else along_v = vec3(0, 0, -s.y);
#elif OBJECT == 2 || OBJECT == 3
    vec3 round = normalize(vec3(p.z, 0.0, -p.x) + vec3(1e-6, 0, 0));
    along_u = round; along_v = vec3(0, 1, 0);
#if OBJECT == 3
    if (abs(p.y) - 0.82 > length(p.xz) - 0.62) { along_u = vec3(1, 0, 0); along_v = vec3(0, 0, -sign(p.y)); }
#endif
#endif
    vec3 bare = body_normal(p);
    along_u = normalize(along_u - bare * dot(bare, along_u));
    along_v = normalize(along_v - bare * dot(bare, along_v));
#if OBJECT == 2
    along_v = cross(bare, along_u);
#endif
}

float calm(vec3 p) { // the ball's relief fades where the tile is pinched, towards the poles
#if OBJECT == 2
    // smoothstep(0.02, 0.16, …), which would divide at every step of a ray
    float share = clamp((dot(p.xz, p.xz) - 0.02) * (1.0 / 0.14), 0.0, 1.0);
    return share * share * (3.0 - 2.0 * share);
#else
    return 1.0;
#endif
}

float gap_at(vec3 p, float bare, vec2 place) { // above the relief, at a place of the tile
    float rise = (textureLod(relief_map, place, 0.0).r - middle) * lift * calm(p);
    return max(bare - rise, border(p, bare));
}

// What takes long to find at each step of a straight stretch runs as a parabola, through its ends and a share
// `between`: on the ball where it is on the tile, which takes two inverse functions, `at` at its beginning; over
// the cloth how far it is above the bare folds. All else is found for each step.
struct Track { vec2 at, run, bend; vec3 bare; };

Track track(vec3 from, vec2 at, vec3 run, float between) {
    Track way = Track(at, vec2(0.0), vec2(0.0), vec3(0.0));
#if OBJECT == 2
    vec2 on = unwrap(from + run * between) - at, end = unwrap(from + run) - at;
    vec2 around = vec2(2.0 * repeats, 1e9); // v has an end
    on -= around * round(on / around);
    end -= around * round(end / around);
    way.bend = (on / between - end) / (between - 1.0);
    way.run = end - way.bend;
#elif OBJECT == 4
    float begin = body(from), on = body(from + run * between) - begin, end = body(from + run) - begin;
    float bend = (on / between - end) / (between - 1.0);
    way.bare = vec3(begin, end - bend, bend);
#endif
    return way;
}

float gap_on(Track way, vec3 from, vec3 run, float m) { // above the relief, at a share of a stretch
    vec3 p = from + run * m;
#if OBJECT == 2
    return gap_at(p, body(p), way.at + m * (way.run + m * way.bend));
#elif OBJECT == 4
    return gap_at(p, way.bare.x + m * (way.bare.y + m * way.bare.z), unwrap(p));
#else
    return gap_at(p, body(p), unwrap(p));
#endif
}
