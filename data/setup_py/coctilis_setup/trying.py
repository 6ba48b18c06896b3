# The command by which scripts find out what the compiler takes: it is asked at once.
from .commands import Command, commands
from .compiler import Compiler, attempt


class config(Command):
    def initialize_options(self):
        self.compiler = self.cc = None
        self.include_dirs, self.libraries, self.library_dirs = [], [], []
        self.noisy, self.dump_source = 0, 0

    def _check_compiler(self):
        if self.compiler is None:
            self.compiler = Compiler(tries=True)

    def source(self, body, headers):
        return ''.join('#include <%s>\n' % one for one in headers or []) + (body or '')

    def try_cpp(self, body=None, headers=None, include_dirs=None, lang='c'):
        return attempt('preprocess', self.source(body, headers), include_dirs, language=lang)

    def try_compile(self, body, headers=None, include_dirs=None, lang='c'):
        return attempt('compile', self.source(body, headers), include_dirs, language=lang)

    def try_link(self, body, headers=None, include_dirs=None, libraries=None, library_dirs=None, lang='c'):
        return attempt('link', self.source(body, headers), include_dirs, libraries, library_dirs, lang)

    def try_run(self, body, headers=None, include_dirs=None, libraries=None, library_dirs=None, lang='c'):
        return attempt('run', self.source(body, headers), include_dirs, libraries, library_dirs, lang)

    def check_header(self, header, include_dirs=None, library_dirs=None, lang='c'):
        return self.try_cpp(headers=[header], include_dirs=include_dirs, lang=lang)

    def check_func(self, func, headers=None, include_dirs=None, libraries=None, library_dirs=None, decl=0, call=0):
        body = 'int %s ();\n' % func if decl else ''
        body += 'int main (void) { %s; return 0; }' % (func + '()' if call else func)
        return self.try_link(body, headers, include_dirs, libraries, library_dirs)

    def check_lib(self, library, library_dirs=None, headers=None, include_dirs=None, other_libraries=()):
        body = 'int main (void) { return 0; }'
        return self.try_link(body, headers, include_dirs, [library] + list(other_libraries), library_dirs)


commands['config'] = config
