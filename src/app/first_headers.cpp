// Nothing of its own: the headers that all of the bench reads are precompiled for this file.
