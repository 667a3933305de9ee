// A perceptually even scale that colour-blind eyes can read, for 0 to 1, in screen colours: dark blue over green to pale yellow.
vec3 scale(float t)
{
    const vec3 k[5] = vec3[](vec3(0.36, 0.33, 0.60), vec3(0.20, 0.42, 0.60), vec3(0.18, 0.57, 0.53), vec3(0.55, 0.74, 0.36), vec3(0.97, 0.91, 0.52));
    float at = clamp(t, 0.0, 1.0) * 4.0;
    int i = min(int(at), 3);
    return mix(k[i], k[i + 1], at - float(i));
}
