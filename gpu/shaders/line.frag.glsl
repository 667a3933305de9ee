in vec4 shade;

out vec4 picture;

void main()
{
    picture = shade;
}
