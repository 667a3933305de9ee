uniform vec3 colour;

out vec4 picture;

void main()
{
    picture = vec4(colour, 1.0);
}
