# The usual scripting way with the same file: NumPy's text reader, a low-pass filter, a peak search.
import resource
import sys
import time

import numpy as np
from scipy.signal import butter, find_peaks, sosfiltfilt

started = time.perf_counter()
data = np.loadtxt(sys.argv[1], delimiter=",", skiprows=1)
read = time.perf_counter()
rate = 1 / np.median(np.diff(data[:100000, 0]))
smooth = sosfiltfilt(butter(4, 40, fs=rate, output="sos"), data[:, 1] * 1000)
peaks, _ = find_peaks(smooth, distance=int(rate * 0.06), prominence=20)
done = time.perf_counter()
print(f"NumPy {np.__version__}: read {read - started:.2f} s, read and analysed {done - started:.2f} s, {len(peaks)} peaks, peak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3:.0f} MB")
