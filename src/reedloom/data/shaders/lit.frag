#version 330
// A material on an object in light. The relief is marched as a displaced distance field, so that
// outlines, self-shadowing and depth are true; shading is GGX metallic/roughness.
uniform vec2 size;             // of the whole frame in pixels
uniform vec3 eye;
uniform mat3 axes;             // columns: right, up, forward
uniform float lens;            // half the view's height at distance 1
uniform int object;            // sheet, cube, ball, cylinder, cloth
uniform float repeats;
uniform float depth;           // from height 0 to height 1, in object units
uniform float middle;          // the height that stays at the object's surface
uniform float slope_scale;     // how much steeper than the weave's own the relief is shown
uniform sampler2D height_map, normal_map, colour_map, data_map, emission_map;
uniform vec4 present;          // whether there is a height, a normal, an emission; 1: grey map only
uniform sampler2D mirrors;     // LEVELS pictures by roughness, one below the other
uniform float levels;
uniform sampler2D energy;
uniform vec3 harmonics[9];
uniform float turn;            // of the surroundings, in turns
uniform vec3 key_direction, key_colour;
uniform float exposure;
uniform int tone;
uniform int steps, shadow_steps, samples;
uniform vec3 background;
out vec4 shown;

const float PI = 3.14159265359;

// -- the object ------------------------------------------------------------------------------------

float fold(vec2 p) { // the cloth's own hang
    return 0.16 * sin(2.6 * p.x + 0.9 * sin(1.7 * p.y)) + 0.09 * cos(3.3 * p.y - 1.1 * p.x) - 0.10 * dot(p, p);
}

float body(vec3 p) { // distance to the bare object
    if (object == 0) return p.y;
    if (object == 1) { vec3 q = abs(p) - 0.62; return length(max(q, 0.0)) + min(max(q.x, max(q.y, q.z)), 0.0) - 0.16; }
    if (object == 2) return length(p) - 1.0;
    if (object == 3) {
        vec2 q = vec2(length(p.xz) - 0.62, abs(p.y) - 0.82);
        return length(max(q, 0.0)) + min(max(q.x, q.y), 0.0) - 0.08;
    }
    return (p.y - fold(p.xz)) * 0.78;
}

float border(vec3 p) { // what cuts sheet and cloth off at their edges
    if (object == 0) return max(max(abs(p.x), abs(p.z)) - 1.0, -0.10 - depth - p.y);
    if (object == 4) return max(max(abs(p.x), abs(p.z)) - 1.05, (fold(p.xz) - 0.05 - depth - p.y) * 0.78);
    return -1e9;
}

vec3 body_normal(vec3 p) {
    const vec2 e = vec2(1e-3, -1e-3);
    return normalize(e.xyy * body(p + e.xyy) + e.yyx * body(p + e.yyx) + e.yxy * body(p + e.yxy) + e.xxx * body(p + e.xxx));
}

// Where on the tile a point lies; also how the tile's u and upward v run there, as unit directions.
vec2 unwrap(vec3 p, out vec3 along_u, out vec3 along_v) {
    if (object == 0 || object == 4) {
        along_u = vec3(1, 0, 0); along_v = vec3(0, 0, -1);
        return (p.xz * 0.5 + 0.5) * repeats;
    }
    if (object == 1) {
        vec3 a = abs(p);
        if (a.x > a.y && a.x > a.z) { float s = sign(p.x); along_u = vec3(0, 0, -s); along_v = vec3(0, 1, 0);
            return (vec2(-s * p.z, -p.y) / 1.56 + 0.5) * repeats; }
        if (a.z > a.y) { float s = sign(p.z); along_u = vec3(s, 0, 0); along_v = vec3(0, 1, 0);
            return (vec2(s * p.x, -p.y) / 1.56 + 0.5) * repeats; }
        float s = sign(p.y); along_u = vec3(1, 0, 0); along_v = vec3(0, 0, -s);
        return (vec2(p.x, s * p.z) / 1.56 + 0.5) * repeats;
    }
    float phi = atan(p.z, p.x) / (2.0 * PI);
    vec3 around = normalize(vec3(-p.z, 0.0, p.x) + vec3(1e-6, 0, 0));
    if (object == 2) {
        float theta = acos(clamp(p.y / max(length(p), 1e-6), -1.0, 1.0));
        along_u = -around; along_v = normalize(cross(normalize(p), along_u));
        return vec2(-phi * 2.0, theta / PI) * repeats;
    }
    if (abs(p.y) > 0.86 && length(p.xz) < 0.66) {
        along_u = vec3(1, 0, 0); along_v = vec3(0, 0, -sign(p.y));
        return (vec2(p.x, sign(p.y) * p.z) / 1.8 + 0.5) * repeats;
    }
    along_u = -around; along_v = vec3(0, 1, 0);
    return vec2(-phi * 2.0 * 1.22, 0.5 - p.y / 1.8) * vec2(2.0 / 2.44, 1.0) * repeats;
}

float tile_span() { // object units across one tile
    if (object == 0 || object == 4) return 2.0 / repeats;
    if (object == 1) return 1.56 / repeats;
    if (object == 2) return PI / repeats;
    return 2.2 / repeats;
}

// -- marching --------------------------------------------------------------------------------------

float crust() { return depth * max(middle, 1.0 - middle) + 1e-4; }

float gap(vec3 p, vec2 place) { // above the relief, whose place on the tile is known
    float rise = present.x < 0.5 ? 0.0 : (textureLod(height_map, place, 0.0).r - middle) * depth;
    return max(body(p) - rise, border(p));
}

// A stretch of a ray through the shell. The shell is thin, so the place on the tile runs evenly
// along it and need not be worked out for every step, but where the object's unwrapping jumps.
struct Stretch { vec3 from, way; float start, span; vec2 first, last; bool even; };

Stretch lay(vec3 from, vec3 way, float start, float span) {
    vec3 u, v;
    vec2 a = unwrap(from + way * start, u, v), b = unwrap(from + way * (start + span), u, v);
    return Stretch(from, way, start, span, a, b, distance(a, b) < 0.35 * repeats);
}

float gap_along(Stretch s, float part) {
    vec3 p = s.from + s.way * (s.start + s.span * part), u, v;
    vec2 place;
    if (s.even) place = mix(s.first, s.last, part); else place = unwrap(p, u, v);
    return gap(p, place);
}

bool march(vec3 from, vec3 way, float start, float end, int count, out float t) {
    t = start;
    for (int leg = 0; leg < 5; ++leg) {
        for (int i = 0; i < 48; ++i) { // to the shell
            float d = max(body(from + way * t) - crust(), border(from + way * t));
            if (d < 2e-3) break;
            t += d * 0.96;
            if (t > end) return false;
        }
        float slant = abs(dot(way, body_normal(from + way * t)));
        Stretch s = lay(from, way, t, clamp(2.1 * crust() / max(slant, 0.12), 0.004, 0.36));
        float before = 0.0;
        for (int i = 1; i <= count; ++i) { // through it
            float here = float(i) / float(count);
            if (gap_along(s, here) < 0.0) {
                for (int k = 0; k < 5; ++k) {
                    float m = 0.5 * (before + here);
                    if (gap_along(s, m) < 0.0) here = m; else before = m;
                }
                t = s.start + s.span * here;
                return true;
            }
            before = here;
        }
        t += s.span;
        if (t > end) return false;
    }
    return false;
}

float sunlight(vec3 p, vec3 normal) { // 1 in the key light, 0 in shadow, soft where it is nearly caught
    if (shadow_steps == 0 || present.x < 0.5) return 1.0;
    float slant = max(dot(normal, key_direction), 0.06);
    Stretch s = lay(p + normal * (0.01 * depth + 1e-4), key_direction, 0.0, min(2.0 * crust() / slant, 0.7));
    float lit = 1.0;
    for (int i = 1; i <= shadow_steps; ++i) {
        float part = float(i * i) / float(shadow_steps * shadow_steps);
        lit = min(lit, 0.5 + 0.5 * gap_along(s, part) / (0.04 * s.span * part + 0.02 * depth + 1e-5));
        if (lit <= 0.0) return 0.0;
    }
    return lit * lit * (3.0 - 2.0 * lit);
}

// -- light -----------------------------------------------------------------------------------------

vec2 around(vec3 d) {
    return vec2(fract(atan(d.z, d.x) / (2.0 * PI) - turn), acos(clamp(d.y, -1.0, 1.0)) / PI);
}

vec3 mirror_level(vec2 place, float level) {
    float row = clamp(place.y, 0.5 / 64.0, 1.0 - 0.5 / 64.0);
    return textureLod(mirrors, vec2(place.x, (level + row) / levels), 0.0).rgb;
}

vec3 mirrored(vec3 d, float roughness) {
    float level = roughness * (levels - 1.0), low = floor(level);
    vec2 place = around(d);
    return mix(mirror_level(place, low), mirror_level(place, min(low + 1.0, levels - 1.0)), level - low);
}

vec3 matt(vec3 n) {
    float a = 2.0 * PI * turn, c = cos(a), s = sin(a);
    vec3 d = vec3(c * n.x + s * n.z, n.y, -s * n.x + c * n.z);
    vec3 sum = harmonics[0] * 0.282095 + 0.488603 * (harmonics[1] * d.y + harmonics[2] * d.z + harmonics[3] * d.x)
        + 1.092548 * (harmonics[4] * d.x * d.y + harmonics[5] * d.y * d.z + harmonics[7] * d.x * d.z)
        + 0.315392 * harmonics[6] * (3.0 * d.z * d.z - 1.0) + 0.546274 * harmonics[8] * (d.x * d.x - d.y * d.y);
    return max(sum, 0.0);
}

vec3 shade(vec3 base, float roughness, float metallic, float open, vec3 n, vec3 view, vec3 p, vec3 bare) {
    float nv = clamp(dot(n, view), 1e-3, 1.0);
    vec3 f0 = mix(vec3(0.04), base, metallic);
    vec2 ab = texture(energy, vec2(nv, roughness)).rg;
    // Around: single scattering, what is scattered again, and the matt rest (Fdez-Agüera 2019).
    vec3 single = f0 * ab.x + ab.y;
    float kept = ab.x + ab.y;
    vec3 mean = f0 + (1.0 - f0) / 21.0;
    vec3 again = (1.0 - kept) * single * mean / (1.0 - mean * (1.0 - kept));
    vec3 rest = base * (1.0 - metallic) * (1.0 - single - again);
    vec3 from_around = matt(n);
    float half_hidden = clamp(pow(nv + open, exp2(-16.0 * roughness - 1.0)) - 1.0 + open, 0.0, 1.0);
    vec3 light = single * mirrored(reflect(-view, n), roughness) * half_hidden + (again + rest) * from_around * open;
    // The key light.
    float nl = dot(n, key_direction);
    if (nl > 0.0 && dot(bare, key_direction) > 0.0) {
        vec3 h = normalize(view + key_direction);
        float nh = clamp(dot(n, h), 0.0, 1.0), vh = clamp(dot(view, h), 0.0, 1.0);
        float alpha = max(roughness * roughness, 2e-3), a2 = alpha * alpha;
        float q = nh * nh * (a2 - 1.0) + 1.0;
        float spread = a2 / (PI * q * q);
        float masking = 0.5 / (nl * sqrt(a2 + (1.0 - a2) * nv * nv) + nv * sqrt(a2 + (1.0 - a2) * nl * nl));
        vec3 fresnel = f0 + (1.0 - f0) * pow(1.0 - vh, 5.0);
        vec3 gloss = fresnel * spread * masking * (1.0 + f0 * (1.0 / max(kept, 0.05) - 1.0));
        vec3 matte = base * (1.0 - metallic) * (1.0 - fresnel) / PI;
        light += (gloss + matte) * key_colour * PI * nl * sunlight(p, bare);
    }
    return light;
}

// -- the picture -----------------------------------------------------------------------------------

vec3 map_tones(vec3 c) {
    c *= exp2(exposure);
    if (tone == 0) c = clamp(c * (2.51 * c + 0.03) / (c * (2.43 * c + 0.59) + 0.14), 0.0, 1.0); // K. Narkowicz 2015
    c = clamp(c, 0.0, 1.0);
    return mix(c * 12.92, 1.055 * pow(max(c, 1e-6), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
}

vec3 coat(vec3 p, vec3 way, float t) { // the colour of a point of the object
    vec3 u, v, bare = body_normal(p), view = -way;
    vec2 place = unwrap(p, u, v);
    float texels = float(textureSize(colour_map, 0).x);
    float footprint = t * 2.0 * lens / size.y / tile_span() * texels / max(0.25, dot(bare, view));
    float lod = max(0.0, log2(max(footprint, 1e-4)));
    u = normalize(u - bare * dot(u, bare)); v = normalize(v - bare * dot(v, bare));
    vec3 n = bare;
    if (present.y > 0.5) {
        vec3 tilt = textureLod(normal_map, place, lod).xyz * 2.0 - 1.0;
        tilt.xy *= slope_scale;
        n = normalize(u * tilt.x + v * tilt.y + bare * max(tilt.z, 0.02));
    }
    if (present.y < 0.5 && present.x > 0.5) {
        float e = 1.0 / float(textureSize(height_map, 0).x), span = tile_span();
        float rise_u = textureLod(height_map, place + vec2(e, 0), lod).r - textureLod(height_map, place - vec2(e, 0), lod).r;
        float rise_v = textureLod(height_map, place - vec2(0, e), lod).r - textureLod(height_map, place + vec2(0, e), lod).r;
        n = normalize(bare - (u * rise_u + v * rise_v) * depth / (2.0 * e * span));
    }
    if (dot(n, view) < 0.02) n = normalize(n + view * (0.02 - dot(n, view)));
    vec3 base = textureLod(colour_map, place, lod).rgb;
    vec4 data = textureLod(data_map, place, lod);
    vec3 colour = shade(base, clamp(data.r, 0.03, 1.0), clamp(data.g, 0.0, 1.0), clamp(data.b, 0.0, 1.0), n, view, p, bare);
    if (present.z > 0.5) colour += textureLod(emission_map, place, lod).rgb;
    if (border(p) > -2e-3 && (object == 0 || object == 4)) { // where sheet and cloth are cut off
        return map_tones(vec3(0.10, 0.095, 0.09) * (0.4 + 0.6 * matt(normalize(vec3(p.x, 0.0, p.z)))));
    }
    return mix(background, map_tones(colour), clamp(data.a, 0.0, 1.0));
}

vec3 look(vec2 pixel) {
    vec2 at = (2.0 * pixel - size) / size.y * lens;
    vec3 way = normalize(axes * vec3(at, 1.0)), result = background;
    float b = dot(eye, way), reach = (object == 2 ? 1.0 : 1.62) + crust(), c = dot(eye, eye) - reach * reach;
    float disc = b * b - c, t = 0.0;
    bool hit = false;
    if (disc > 0.0) {
        float root = sqrt(disc);
        hit = march(eye, way, max(-b - root, 0.0), -b + root, steps, t);
    }
    if (hit) result = coat(eye + way * t, way, t);
    return result;
}

void main() {
    vec3 sum = vec3(0.0);
    for (int i = 0; i < samples; ++i) {
        vec2 part = samples == 1 ? vec2(0.5) : vec2(fract(0.5 + 0.75487767 * float(i)), fract(0.5 + 0.56984029 * float(i)));
        sum += look(floor(gl_FragCoord.xy) + part);
    }
    shown = vec4(sum / float(samples), 1.0);
}
