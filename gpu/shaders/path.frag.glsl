out vec4 picture;

void main()
{
    picture = vec4(0.48, 0.29, 0.54, 1.0); // heather, as what is selected
}
