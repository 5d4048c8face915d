"""Waits until an address answers, or the process that should serve it has gone."""

import os
import sys
import time
import urllib.error
import urllib.request

LONGEST_S = 600
address, process = sys.argv[1], int(sys.argv[2])
opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
end = time.monotonic() + LONGEST_S
while time.monotonic() < end:
    try:
        with opener.open(address, timeout=2):
            sys.exit(0)
    except (urllib.error.URLError, OSError):
        pass
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        sys.exit(1)
    time.sleep(0.2)
sys.exit(1)
