// Between screen colours and linear light (IEC 61966-2-1, 1999), both 0 to 1 a channel. Polynomials fitted for the least
// largest error, 0.7 of 1/255 of a screen colour each. With the standard's powers a frame of a software rasteriser is a
// fifth longer, with texture and target formats that convert a tenth.
vec3 linear(vec3 c)
{
    return c * (0.060252 + c * (0.347798 + c * (0.949756 - 0.363636 * c)));
}

vec3 screen(vec3 light)
{
    vec3 root = sqrt(light);
    return root * (root * (74.71689 * root + 20.32311) - 0.04815) / (root * (84.10079 * root + 9.6452) + 1.0);
}
