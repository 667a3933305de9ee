/* SPDX-License-Identifier: Apache-2.0 */
/* A shared library that is no method. */
int other(void);
int other(void)
{
    return 1;
}
