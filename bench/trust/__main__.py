"""All of it, or one part."""

import sys

from bench.trust.kills import kills

if __name__ == "__main__":
    part, *numbers = sys.argv[1:]
    if part == "kills":
        for row in kills(int(numbers[0])):
            print(row)
