// Second pass: the colour of what the first pass met. GGX metallic/roughness with what is scattered
// again, and coat, sheen, film, anisotropy and light below the surface where their maps exist.
uniform sampler2D met_map;     // from the first pass
uniform sampler2D height_map, normal_map, colour_map, data_map, emission_map;
uniform float footprint;       // texels of the colour map across a pixel seen straight on at distance 1
uniform float slope_scale;     // how much steeper than the weave's own the relief is shown
uniform sampler2D mirrors;     // LEVELS pictures by roughness, one below the other
uniform sampler2D energy;      // by cosine and roughness: scale and rise of F0, and what sheen takes
uniform vec3 harmonics[9];
uniform float turn;            // of the surroundings, in turns
uniform vec3 key_direction;
uniform vec3 key_colour;
uniform float exposure;
uniform int tone;
uniform int shadow_steps;
uniform vec3 background;
#if LAYERS
uniform sampler2D layer_map;   // coat weight, coat roughness, sheen, light below the surface
#endif
#if FILM
uniform sampler2D film_map;    // film thickness, specular level, anisotropy and its angle in turns
#endif
#if TINTS
uniform sampler2D coat_tint, sheen_tint, below_tint, reach_map;
#endif
out vec4 shown;

const float FILM_INDEX = 1.42, FILM_SPAN = 1000.0; // of the film; nanometres where its map is 1
const vec3 WAVES = vec3(612.0, 549.0, 465.0);      // wavelengths that stand for red, green and blue
const float SHEEN_WIDTH = 0.5;

// 1 in the key light, 0 in shadow, soft where it is nearly caught.
float sunlight(vec3 p, vec2 place, vec3 bare) {
    float slant = max(dot(bare, key_direction), 0.06);
    vec3 from = p + bare * (0.01 * depth + 1e-4);
    float reach = min((outward() - body(p)) * 1.1 / slant, 0.9), lit = 1.0;
    if (reach < 0.0) return 1.0;
    vec3 run = key_direction * reach;
    float pace = 1.0 / float(shadow_steps * shadow_steps);
    // Steps are closest at its beginning, which lies straight above the place.
    Track along = track(from, place, run, 0.25);
    for (int i = 1; i <= shadow_steps; ++i) {
        float part = float(i * i) * pace;
        lit = min(lit, 0.5 + 0.5 * gap_on(along, from, run, part) / (0.03 * reach * part + 0.02 * depth + 1e-5));
        if (lit <= 0.0) return 0.0;
    }
    return lit * lit * (3.0 - 2.0 * lit);
}

vec3 mirror_level(vec2 place, float level) {
    return textureLod(mirrors, vec2(place.x, (level + place.y) / float(LEVELS)), 0.0).rgb;
}

vec3 mirrored(vec3 d, float roughness) { // what a mirror of that roughness sees
    float level = roughness * float(LEVELS - 1), low = floor(level);
    float row = clamp(acos(clamp(d.y, -1.0, 1.0)) / PI, 0.5 / 64.0, 1.0 - 0.5 / 64.0);
    vec2 place = vec2(atan(d.z, d.x) / (2.0 * PI) - turn, row);
    return mix(mirror_level(place, low), mirror_level(place, min(low + 1.0, float(LEVELS - 1))), level - low);
}

vec3 matt(vec3 n) { // irradiance over pi
    float a = 2.0 * PI * turn, c = cos(a), s = sin(a);
    vec3 d = vec3(c * n.x + s * n.z, n.y, -s * n.x + c * n.z);
    vec3 sum = harmonics[0] * 0.282095 + 0.488603 * (harmonics[1] * d.y + harmonics[2] * d.z + harmonics[3] * d.x)
        + 1.092548 * (harmonics[4] * d.x * d.y + harmonics[5] * d.y * d.z + harmonics[7] * d.x * d.z)
        + 0.315392 * harmonics[6] * (3.0 * d.z * d.z - 1.0) + 0.546274 * harmonics[8] * (d.x * d.x - d.y * d.y);
    return max(sum, 0.0);
}

float fifth(float x) { float y = x * x; return y * y * x; }

// GGX with height-correlated Smith masking over 4 nl nv (E. Heitz, 2014).
float ggx(float nh, float nl, float nv, float alpha) {
    float a2 = alpha * alpha, q = nh * nh * (a2 - 1.0) + 1.0;
    return a2 / (PI * q * q) * 0.5 / (nl * sqrt(a2 + (1.0 - a2) * nv * nv) + nv * sqrt(a2 + (1.0 - a2) * nl * nl));
}

#if FILM
// Reflectance at normal incidence of a base under a film, both reflections summed (G. B. Airy, 1833).
vec3 under_film(vec3 f0, float thickness, float cosine) {
    vec3 base = sqrt(clamp(f0, 1e-4, 0.98)), index = (1.0 + base) / (1.0 - base);
    float top = (1.0 - FILM_INDEX) / (1.0 + FILM_INDEX), inside = sqrt(1.0 - (1.0 - cosine * cosine) / (FILM_INDEX * FILM_INDEX));
    vec3 foot = (FILM_INDEX - index) / (FILM_INDEX + index);
    vec3 phase = 4.0 * PI * FILM_INDEX * thickness * inside / WAVES;
    vec3 wave = cos(phase) * exp(-0.5 * pow(phase * 0.035, vec3(2.0))); // orders blur as bands of light widen
    vec3 both = top * top + foot * foot + 2.0 * top * foot * wave;
    vec3 film = both / (1.0 + top * top * foot * foot + 2.0 * top * foot * wave);
    return mix(f0, film, smoothstep(0.0, 25.0, thickness));
}

// GGX stretched along the tile's u (B. Burley, 2012).
float ggx_along(vec3 h, vec3 l, vec3 v, vec3 u, vec3 w, vec3 n, vec2 alpha) {
    vec3 m = vec3(dot(h, u) / alpha.x, dot(h, w) / alpha.y, dot(h, n));
    float q = dot(m, m), nl = dot(n, l), nv = max(dot(n, v), 1e-3);
    float masking = nl * length(vec3(alpha.x * dot(v, u), alpha.y * dot(v, w), nv)) + nv * length(vec3(alpha.x * dot(l, u), alpha.y * dot(l, w), nl));
    return 1.0 / (PI * alpha.x * alpha.y * q * q) * 0.5 / masking;
}
#endif

// Half-open surroundings hide what lies low (D. Lagarde and C. de Rousiers, 2014).
float unhidden(float nv, float open, float roughness) {
    return clamp(pow(nv + open, exp2(-16.0 * roughness - 1.0)) - 1.0 + open, 0.0, 1.0);
}

vec3 light_of(vec2 place, float lod, vec3 n, vec3 view, vec3 p, vec3 bare, vec3 u, vec3 v, out float cover) {
    vec3 base = textureLod(colour_map, place, lod).rgb;
    vec4 data = textureLod(data_map, place, lod);
    float roughness = clamp(data.r, 0.03, 1.0), metallic = clamp(data.g, 0.0, 1.0), open = clamp(data.b, 0.0, 1.0);
    cover = clamp(data.a, 0.0, 1.0);
    float nv = clamp(dot(n, view), 1e-3, 1.0), nl = dot(n, key_direction), level = 0.04, alpha = roughness * roughness;
    vec3 towards = reflect(-view, n);
#if FILM
    vec4 film = clamp(textureLod(film_map, place, lod), 0.0, 1.0);
    level = 0.08 * film.g;
    float stretch = sqrt(1.0 - 0.9 * film.b);
    vec3 across = normalize(v - n * dot(v, n)), along = cross(across, n);
    float way = 2.0 * PI * film.a; // clockwise from the tile's u
    vec3 turned = along * cos(way) - across * sin(way);
    across = along * sin(way) + across * cos(way);
    along = turned;
    towards = reflect(-view, normalize(mix(n, cross(cross(across, -view), across), 0.5 * film.b * clamp(4.0 * roughness, 0.0, 1.0))));
#endif
    vec3 f0 = mix(vec3(level), base, metallic);
#if FILM
    f0 = under_film(f0, film.r * FILM_SPAN, nv);
#endif
    vec3 ab = texture(energy, vec2(nv, roughness)).rgb, single = f0 * ab.x + ab.y;
    // Around: single scattering, what is scattered again, and the matt rest (C. Fdez-Agüera, 2019).
    float kept = ab.x + ab.y;
    vec3 mean = f0 + (1.0 - f0) / 21.0;
    vec3 again = (1.0 - kept) * single * mean / (1.0 - mean * (1.0 - kept));
    vec3 body_colour = base * (1.0 - metallic), rest = body_colour * (1.0 - single - again), below = matt(n);
#if LAYERS
    vec4 layer = clamp(textureLod(layer_map, place, lod), 0.0, 1.0);
    vec3 inner = base, coat_through = vec3(1.0), sheen_colour = vec3(1.0);
    float reach = 1.0; // against that of the fallback
#if TINTS
#if BELOW
    inner = textureLod(below_tint, place, lod).rgb;
#endif
    reach = 2.0 * clamp(textureLod(reach_map, place, lod).r, 0.0, 1.0);
    coat_through = mix(vec3(1.0), max(textureLod(coat_tint, place, lod).rgb, 0.0), layer.r);
    sheen_colour = max(textureLod(sheen_tint, place, lod).rgb, 0.0);
#endif
    rest = mix(rest, inner * (1.0 - metallic) * (1.0 - single - again), layer.a);
    below = mix(below, 0.55 * matt(bare) + 0.25 * below + 0.2 * matt(-view) * (0.4 + 0.6 * inner), layer.a * min(reach, 1.0));
#endif
    vec3 light = single * mirrored(towards, roughness) * unhidden(nv, open, roughness) + (again * matt(n) + rest * below) * open;
    float lamp = 0.0, nh = 0.0, vh = 0.0;
    float facing = smoothstep(-0.05, 0.08, dot(bare, key_direction));
    float caught = shadow_steps > 0 && facing > 0.0 ? facing * sunlight(p, place, bare) : facing;
    vec3 h = normalize(view + key_direction), gloss = vec3(0.0), matte = body_colour / PI;
    nh = clamp(dot(n, h), 0.0, 1.0); vh = clamp(dot(view, h), 0.0, 1.0); lamp = max(nl, 1e-4);
    vec3 fresnel = f0 + (1.0 - f0) * fifth(1.0 - vh);
#if FILM
    float spread = ggx_along(h, key_direction, view, along, across, n, max(vec2(alpha / stretch, alpha * stretch), 2e-3));
#else
    float spread = ggx(nh, lamp, nv, max(alpha, 2e-3));
#endif
    gloss = fresnel * spread * (1.0 + f0 * (1.0 / max(kept, 0.05) - 1.0));
    matte *= 1.0 - fresnel;
#if LAYERS
    // Light that has gone below the surface comes out beside where it fell, past the terminator too.
    float past = 0.45 * reach, soaked = clamp((nl + past) / (1.0 + past), 0.0, 1.0);
    vec3 bleed = inner * (1.0 - metallic) / PI * (1.0 - fresnel) * layer.a * soaked * soaked * (0.35 + 0.65 * inner);
    vec3 from_key = (gloss + matte * (1.0 - layer.a)) * max(nl, 0.0) * caught + bleed * mix(caught, 1.0, min(0.25 * reach, 1.0));
    // Sheen: fibres that stand up (A. Conty Estevez and C. Kulla, 2017; masking after M. Ashikhmin, 2007).
    float sheen = layer.b * ab.z, fibre = (2.0 + 1.0 / SHEEN_WIDTH) * pow(max(1.0 - nh * nh, 1e-4), 0.5 / SHEEN_WIDTH) / (2.0 * PI);
    light = light * (1.0 - sheen) + sheen * sheen_colour * below * open;
    from_key = from_key * (1.0 - sheen) + layer.b * sheen_colour * fibre / (4.0 * (lamp + nv - lamp * nv)) * max(nl, 0.0) * caught;
    // Coat: a clear layer of index 1.5 over all of it.
    float coat_roughness = clamp(layer.g, 0.03, 1.0);
    vec2 coat_ab = texture(energy, vec2(nv, coat_roughness)).rg;
    float coat = layer.r * (0.04 * coat_ab.x + coat_ab.y);
    light = light * (1.0 - coat) * coat_through + coat * mirrored(reflect(-view, n), coat_roughness) * unhidden(nv, open, coat_roughness);
    float coat_fresnel = layer.r * (0.04 + 0.96 * fifth(1.0 - vh));
    from_key = from_key * (1.0 - coat_fresnel) * coat_through + coat_fresnel * ggx(nh, lamp, nv, max(coat_roughness * coat_roughness, 2e-3)) * max(nl, 0.0) * caught;
#else
    vec3 from_key = (gloss + matte) * max(nl, 0.0) * caught;
#endif
    light += from_key * key_colour * PI;
#if EMISSION
    light += textureLod(emission_map, place, lod).rgb;
#endif
    return light;
}

vec3 map_tones(vec3 c) {
    c *= exp2(exposure);
    if (tone == 0) c = c * (2.51 * c + 0.03) / (c * (2.43 * c + 0.59) + 0.14); // K. Narkowicz, 2015
    c = clamp(c, 0.0, 1.0);
    return mix(c * 12.92, 1.055 * pow(max(c, 1e-6), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
}

vec3 facing_normal(vec2 place, float lod, vec3 bare, vec3 u, vec3 v, vec3 view) {
#if NORMAL
    vec3 tilt = textureLod(normal_map, place, lod).xyz * 2.0 - 1.0;
    vec3 n = normalize((u * tilt.x + v * tilt.y) * slope_scale * calm(bare) + bare * max(tilt.z, 0.02));
#else
    float e = exp2(lod) / float(textureSize(height_map, 0).x);
    float rise_u = textureLod(height_map, place + vec2(e, 0), lod).r - textureLod(height_map, place - vec2(e, 0), lod).r;
    float rise_v = textureLod(height_map, place - vec2(0, e / aspect), lod).r - textureLod(height_map, place + vec2(0, e / aspect), lod).r;
    vec3 n = normalize(bare - (u * rise_u + v * rise_v) * lift * calm(bare) / (2.0 * e * SPAN / repeats));
#endif
    float turned = dot(n, view);
    return turned < 0.02 ? normalize(n + view * (0.02 - turned)) : n;
}

void main() {
    float t = texelFetch(met_map, ivec2(gl_FragCoord.xy), 0).r;
    shown = vec4(background, 1.0);
    if (t < 0.0) return;
    vec3 way = ray(), p = eye + way * t, bare = body_normal(p), view = -way, u, v;
#if OBJECT == 0 || OBJECT == 4
    if (border(p, body(p)) > -2e-3) { // where sheet and cloth are cut off
        shown.rgb = map_tones(vec3(0.10, 0.095, 0.09) * (0.4 + 0.6 * matt(normalize(vec3(p.x, 0.0, p.z)))));
        return;
    }
#endif
    vec2 place = unwrap(p);
    directions(p, u, v);
    float lod = max(0.0, log2(max(t * footprint / max(0.25, dot(bare, view)), 1e-4))), cover;
    vec3 light = light_of(place, lod, facing_normal(place, lod, bare, u, v, view), view, p, bare, u, v, cover);
    shown.rgb = mix(background, map_tones(light), cover);
}
