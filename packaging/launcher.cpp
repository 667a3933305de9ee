// SPDX-License-Identifier: Apache-2.0
// bin/fell-cli and bin/fell-app of the packages: starts the build of the program that suits this processor,
// lib/fell/x86-64-v3/NAME where it has AVX2 and BMI2, else lib/fell/plain/NAME. The kernels are those of that build, so
// a choice at run time costs one exec and no call through a pointer. FELL_LEVEL=plain or x86-64-v3 decides instead.
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <string>
#include <unistd.h>

int main(int, char** argv)
{
    namespace fs = std::filesystem;
    std::error_code error;
    const fs::path self = fs::read_symlink("/proc/self/exe", error);
    if (error)
        return std::fprintf(stderr, "%s: /proc/self/exe cannot be read: mount /proc\n", argv[0]), 126;
    bool isFast = false;
#ifdef __x86_64__
    isFast = __builtin_cpu_supports("x86-64-v3") != 0;
#endif
    std::string level = isFast ? "x86-64-v3" : "plain";
    if (const char* wanted = std::getenv("FELL_LEVEL")) {
        if (wanted != std::string("plain") && (wanted != std::string("x86-64-v3") || !isFast))
            return std::fprintf(stderr, "%s: FELL_LEVEL is \"%s\": %s allowed on this processor\n",
                       self.filename().c_str(), wanted, isFast ? "plain and x86-64-v3 are" : "plain is"),
                   2;
        level = wanted;
    }
    const fs::path program = self.parent_path().parent_path() / "lib/fell" / level / self.filename();
    execv(program.c_str(), argv);
    std::perror(program.c_str());
    return 126;
}
