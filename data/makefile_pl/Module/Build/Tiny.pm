# The short form of a Build.PL: all is as usual, and what the module is called stands in META.json.
package Module::Build::Tiny;
use strict;
use warnings;
use Exporter 'import';
use JSON::PP ();
use Module::Build ();

our $VERSION = '99';
our @EXPORT = qw(Build_PL);

sub Build_PL {
  open(my $in, '<', 'META.json') or die "META.json: $!\n";
  my $meta = JSON::PP->new->decode(do { local $/; <$in> });
  my %required;
  for my $phase (qw(runtime build test)) { %required = (%required, %{$meta->{prereqs}{$phase}{requires} || {}}) }
  Module::Build->new(dist_name => $meta->{name}, dist_version => $meta->{version}, requires => \%required,
    script_files => [ExtUtils::MM_Any::sources_below('script', qr/./)])->create_build_script;
}

1;
