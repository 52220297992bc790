"""GLSL sources. World: x across, y along the course, z up; the snow is z = −y·tan(slope)."""

from __future__ import annotations

#: One limb per instance: a lathe of (angle, latitude) around the line a → b.
LIMB_VERTEX = """
#version 330
in vec2 ring;          // angle around, latitude -1..1 (beyond 0 belongs to end b)
in vec3 end_a; in vec3 end_b; in vec2 radii; in vec3 wide; in float flatness;
in vec3 colour; in vec3 stripe; in float stripe_width; in float material;
uniform mat4 view; uniform mat4 clip; uniform vec3 sun; uniform float tan_slope; uniform float level; uniform bool shadow;
out vec3 v_normal; out vec3 v_world; out vec3 v_colour; out float v_material;
void main() {
    vec3 axis = end_b - end_a; float len = length(axis);
    axis = len > 1e-6 ? axis / len : vec3(0, 0, 1);
    vec3 third = cross(axis, wide);
    float angle = ring.x, lat = ring.y * 1.5707963;
    float r = ring.y < 0.0 ? radii.x : radii.y;
    float along = (ring.y < 0.0 ? 0.0 : len) + r * sin(lat) * (flatness < 0.5 ? 0.35 : min(1.0, flatness + 0.25));
    vec3 round = cos(angle) * wide + sin(angle) * flatness * third;
    vec3 world = end_a + axis * along + round * r * cos(lat);
    v_normal = normalize((cos(angle) * wide + sin(angle) / flatness * third) * cos(lat) + axis * sin(lat));
    v_material = material;
    v_colour = mix(colour, stripe, step(1.0 - stripe_width, abs(cos(angle)) ) * step(0.001, stripe_width));
    if (shadow) {
        float height = max(world.z - level + world.y * tan_slope, 0.0);
        world -= sun * height / max(sun.z + sun.y * tan_slope, 0.05);
    }
    v_world = world;
    gl_Position = clip * view * vec4(world, 1.0);
}
"""

#: The skin of a person: triangles that are already where they belong.
SKIN_VERTEX = """
#version 330
in vec3 position; in vec3 normal; in vec3 colour; in float material;
uniform mat4 view; uniform mat4 clip; uniform vec3 sun; uniform float tan_slope; uniform float level; uniform bool shadow;
out vec3 v_normal; out vec3 v_world; out vec3 v_colour; out float v_material;
void main() {
    vec3 world = position;
    v_normal = normal; v_material = material; v_colour = colour;
    if (shadow) {
        float height = max(world.z - level + world.y * tan_slope, 0.0);
        world -= sun * height / max(sun.z + sun.y * tan_slope, 0.05);
    }
    v_world = world;
    gl_Position = clip * view * vec4(world, 1.0);
}
"""

LIMB_FRAGMENT = """
#version 330
in vec3 v_normal; in vec3 v_world; in vec3 v_colour; in float v_material;
uniform vec3 sun; uniform vec3 eye; uniform bool shadow;
out vec4 pixel;
void main() {
    if (shadow) { pixel = vec4(1.0); return; }
    vec3 n = normalize(v_normal), to_eye = normalize(eye - v_world);
    float lambert = max(dot(n, sun), 0.0);
    float sky = 0.5 + 0.5 * n.z, snow = 0.5 - 0.5 * n.z;
    vec3 light = vec3(1.0, 0.96, 0.88) * 0.95 * lambert + vec3(0.62, 0.72, 0.90) * 0.42 * sky + vec3(0.85, 0.90, 1.0) * 0.34 * snow;
    vec3 c = v_colour;
    if (v_material < 0.5) {      // cloth: soft folds
        float fold = sin(v_world.z * 61.0 + sin(v_world.x * 37.0) * 2.0) * sin(v_world.y * 43.0 + v_world.z * 17.0);
        c *= 1.0 + 0.05 * fold;
    }
    vec3 lit = c * light;
    float grazing = pow(1.0 - max(dot(n, to_eye), 0.0), 3.0);
    lit *= 1.0 - 0.22 * grazing;
    if (v_material > 1.5) {
        float shine = pow(max(dot(reflect(-sun, n), to_eye), 0.0), 30.0);
        lit += vec3(v_material > 2.5 ? 0.9 : 0.28) * shine;
        if (v_material > 2.5) lit += vec3(0.20, 0.10, 0.02) * (0.5 + 0.5 * n.z);
    }
    pixel = vec4(pow(clamp(lit, 0.0, 1.0), vec3(1.0 / 1.6)), 1.0);
}
"""

SCREEN_VERTEX = """
#version 330
in vec2 corner; out vec2 at;
void main() { at = corner; gl_Position = vec4(corner, 0.0, 1.0); }
"""

#: Snow, forest and sky by one ray for each pixel; ``noise`` tiles over 512 texels.
GROUND_FRAGMENT = """
#version 330
in vec2 at; out vec4 pixel;
uniform vec3 eye; uniform mat3 to_world; uniform vec2 tangent; uniform float tan_slope; uniform float level;
uniform vec3 base; uniform vec3 shadow_colour; uniform vec3 far; uniform vec3 sky_low; uniform vec3 sky_high; uniform vec3 wood;
uniform float ripple; uniform float indoor; uniform vec2 moved;
uniform sampler2D noise; uniform sampler2D shade;
float clip01(float x) { return clamp(x, 0.0, 1.0); }
float ridge(float bearing, float seed) {
    return texture(noise, vec2(bearing * 0.9 + seed, seed)).r - 0.5 + 0.35 * (texture(noise, vec2(bearing * 4.1, seed + 0.3)).g - 0.5);
}
void main() {
    vec3 ray = normalize(to_world * vec3(at * tangent, 1.0));
    float fall = ray.z + ray.y * tan_slope;
    float high = -(eye.z - level + eye.y * tan_slope);
    float range = fall < -1e-4 || high > 0.0 ? high / fall : -1.0;
    vec3 c;
    if (range > 0.0 && range < 900.0) {
        vec3 hit = eye + ray * range;
        vec2 g = vec2(hit.x, hit.y * sqrt(1.0 + tan_slope * tan_slope)) - moved;
        vec4 wide = texture(noise, g * 0.043), fine = texture(noise, g * 0.61);
        float fade = exp(-range / 160.0);
        float value = 0.94 + 0.07 * (wide.r - 0.5) + 0.09 * (wide.g - 0.5) + fade * (0.12 * (fine.b - 0.5) + 0.02 * sin(g.x * 104.7 + 3.0 * wide.g));
        value -= fade * 0.40 * smoothstep(0.80, 0.88, fine.a);
        float dark = texture(shade, at * 0.5 + 0.5).r;
        c = mix(base, shadow_colour, 0.85 * dark) * value;
        // Water: waves catch the sky.
        float wave = texture(noise, g * vec2(0.09, 0.22)).b + 0.6 * texture(noise, g * vec2(0.31, 0.7)).a - 0.8;
        c = mix(c, sky_low, clip01(ripple * (0.30 + 0.9 * wave) * (0.5 + 0.5 * fade)));
        c = mix(far, c, exp(-range / 700.0));
    } else {
        float bearing = atan(ray.x, abs(ray.y) + 1e-3) + step(ray.y, 0.0) * 2.0, height = ray.z;
        c = mix(sky_low, sky_high, clamp(height * 2.5 + 0.1, 0.0, 1.0));
        float hill = 0.07 + 0.06 * ridge(bearing * 0.4, 0.21);
        if (height < hill && indoor < 0.5) c = mix(far * 0.82, far, smoothstep(0.0, 0.12, height));
        // A hall: boards, then stands, then a roof with beams.
        if (indoor > 0.5) c = height < 0.03 ? vec3(0.88, 0.90, 0.92) : height < 0.035 ? vec3(0.80, 0.72, 0.20) : mix(c, c * 0.82, step(0.5, fract(bearing * 12.0)));
        float trees = 0.012 + 0.02 * ridge(bearing * 0.7, 0.63) + 0.010 * abs(fract(bearing * 160.0) - 0.5) * (0.4 + texture(noise, vec2(bearing * 5.0, 0.5)).r);
        if (height < trees && indoor < 0.5) c = wood + 0.10 * texture(noise, vec2(bearing * 23.0, height * 9.0)).g;
    }
    pixel = vec4(c, 1.0);
}
"""
