# The command by which scripts find out what the compiler takes: it is asked at once.
import os
import subprocess
import tempfile

from .commands import Command, commands
from .compiler import Compiler
from .rules import CompileError, LinkError


class config(Command):
    def initialize_options(self):
        self.compiler = self.cc = None
        self.include_dirs, self.libraries, self.library_dirs = [], [], []
        self.noisy, self.dump_source = 0, 0

    def _check_compiler(self):
        if self.compiler is None:
            self.compiler = Compiler(tries=True)

    def attempt(self, how_far, body, headers=None, include_dirs=None, libraries=None, library_dirs=None, lang='c'):
        """True when it is preprocessed, compiled, linked or run, as `how_far` says."""
        compiler = Compiler(tries=True)
        with tempfile.TemporaryDirectory() as folder:
            source = os.path.join(folder, 'asked' + ('.cpp' if lang == 'c++' else '.c'))
            with open(source, 'w') as out:
                out.write(''.join('#include <%s>\n' % one for one in headers or []) + (body or '') + '\n')
            try:
                if how_far == 'preprocess':
                    options = ['-I' + os.fspath(one) for one in include_dirs or []]
                    compiler.preprocess(source, os.path.join(folder, 'asked.i'), extra_preargs=options)
                    return True
                objects = compiler.compile([source], output_dir=folder, include_dirs=include_dirs)
                if how_far != 'compile':
                    language = 'c++' if lang == 'c++' else None
                    compiler.link_executable(objects, 'asked', folder, libraries, library_dirs, target_lang=language)
            except (CompileError, LinkError):
                return False
            if how_far != 'run':
                return True
            try:
                return subprocess.run([os.path.join(folder, 'asked')], timeout=60).returncode == 0
            except (OSError, subprocess.TimeoutExpired):
                return False

    def try_cpp(self, body=None, headers=None, include_dirs=None, lang='c'):
        return self.attempt('preprocess', body, headers, include_dirs, lang=lang)

    def try_compile(self, body, headers=None, include_dirs=None, lang='c'):
        return self.attempt('compile', body, headers, include_dirs, lang=lang)

    def try_link(self, body, headers=None, include_dirs=None, libraries=None, library_dirs=None, lang='c'):
        return self.attempt('link', body, headers, include_dirs, libraries, library_dirs, lang)

    def try_run(self, body, headers=None, include_dirs=None, libraries=None, library_dirs=None, lang='c'):
        return self.attempt('run', body, headers, include_dirs, libraries, library_dirs, lang)

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
