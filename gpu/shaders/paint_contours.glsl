// The textures with contour lines: a line each 10 m of height, a bold one each 50 m, and every second band of 10 m darker,
// so that bands are told apart where steps are too low for a line.
vec3 painted(vec3 colour, float bright, vec3 day)
{
    const float kApart = 10.0, kBold = 50.0; // metres
    float height = heights.x + fromEye.y * heights.y;
    float pixel = fwidth(height);
    bool isLevel = abs(unpackSnorm4x8(even.y).y) > 0.9;
    float band = floor((height + 0.01) / kApart);
    colour *= mod(band, 2.0) > 0.5 ? 0.72 : 1.0;
    if (isLevel)
        return colour;
    float nearest = round(height / kApart) * kApart;
    bool isBold = abs(mod(nearest + kApart * 0.5, kBold) - kApart * 0.5) < 0.1;
    float wide = max(pixel * (isBold ? 1.3 : 0.8), heights.y * (isBold ? 0.16 : 0.08));
    float ink = 1.0 - smoothstep(wide * 0.7, wide * 1.3, abs(height - nearest));
    float legible = 1.0 - smoothstep(0.2, 0.5, pixel / kApart);
    return mix(colour, linear(vec3(0.36, 0.20, 0.12)), ink * legible * (isBold ? 0.95 : 0.8));
}
