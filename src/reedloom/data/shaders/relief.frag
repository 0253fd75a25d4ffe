// First pass: how far along each pixel's ray the displaced surface is met; negative where it is not.
uniform int steps;             // most steps through the shell
uniform float texels;          // of the height map across the tile
uniform float stride;          // texels to a step, as far as `steps` allow
uniform float hollow;          // how deep the relief goes below the bare object
out float met;

float inward() { return hollow + 1e-4; }

#if OBJECT == 2
const int LEGS = 1;
#elif OBJECT == 4
const int LEGS = 3;
#else
const int LEGS = 2;
#endif

// From t on, the stretch of a ray inside the shell: (start, length); a negative length when there is none.
vec2 stretch(vec3 way, float t) {
#if OBJECT == 2
    float b = dot(eye, way), c = dot(eye, eye), outer = 1.0 + outward(), inner = 1.0 - inward();
    float disc = b * b - c + outer * outer;
    if (disc < 0.0) return vec2(0.0, -1.0);
    float deep = b * b - c + inner * inner, start = max(-b - sqrt(disc), 0.0);
    float end = deep > 0.0 ? -b - sqrt(deep) : -b + sqrt(disc);
    return vec2(start, end - start);
#else
    float b = dot(eye, way), around = WITHIN + max(outward(), depth); // edges are cut off deeper
    float disc = b * b - dot(eye, eye) + around * around;
    if (disc < 0.0) return vec2(0.0, -1.0);
    t = max(t, -b - sqrt(disc));
    float near = 1e-3 + 0.05 * (outward() + inward()); // less than a stretch is longer than it need be
    for (int i = 0; i < 40; ++i) {
        vec3 p = eye + way * t;
        float bare = body(p), d = max(bare - outward(), border(p, bare));
        if (d < near) break;
        t += d * 0.98;
        if (t > dot(-eye, way) + 2.2) return vec2(0.0, -1.0);
    }
    float slant = abs(dot(way, body_normal(eye + way * t)));
    float reach = clamp((outward() + inward()) * 1.2 / max(slant, 0.1), 0.01, 0.4);
#if OBJECT == 0 || OBJECT == 4
    // The last step is just inside the edge: what stands there and is cut off would else be stepped over.
    vec2 out_of = (sign(way.xz) * EDGE - eye.xz) / (way.xz + 1e-9);
    float leaves = min(out_of.x, out_of.y) - t - 1e-4;
    if (leaves > 0.0) reach = min(reach, leaves);
#endif
    return vec2(t, reach);
#endif
}

void main() {
    vec3 way = ray();
    float t = 0.0;
    met = -1.0;
    for (int leg = 0; leg < LEGS; ++leg) {
        vec2 part = stretch(way, t);
        if (part.y < 0.0) break;
        vec3 from = eye + way * part.x, run = way * part.y;
        Track along = track(from, unwrap(from), run, 0.5);
#if OBJECT == 2
        float across = length((along.run + along.bend) * vec2(1.0, aspect)) * texels / stride;
#else
        float across = distance(unroll(from), unroll(from + run)) * texels / stride;
#endif
        float pace = 1.0 / ceil(clamp(across, 4.0, float(steps)));
        float low = 0.0, above = 1.0, high = -1.0, below = 0.0;
        for (float m = pace; m < 1.001; m += pace) {
            float g = gap_on(along, from, run, m);
            if (g < 0.0) { high = m; below = g; break; }
            low = m; above = g;
        }
        if (high > 0.0) {
            if (low == 0.0) above = max(gap_on(along, from, run, 0.0), 1e-5);
            for (int k = 0; k < 3; ++k) {
                float m = mix(low, high, clamp(above / (above - below), 0.1, 0.9));
                float g = gap_on(along, from, run, m);
                if (g < 0.0) { high = m; below = g; } else { low = m; above = g; }
            }
            met = part.x + part.y * mix(low, high, above / max(above - below, 1e-9));
            break;
        }
        t = part.x + part.y;
    }
}
