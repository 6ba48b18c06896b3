// Leaks of libraries, which the sanitizer leaves out. Only part of sanitized programs.

extern "C" const char* __lsan_default_suppressions();

// libgit2 keeps the working memory of its regular expressions for the life of the thread.
extern "C" const char* __lsan_default_suppressions() { return "leak:libpcre2-8\n"; }
extern "C" const char* __lsan_default_options();
extern "C" const char* __lsan_default_options() { return "print_suppressions=0"; }
