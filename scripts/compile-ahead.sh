#!/usr/bin/env bash
# Compiles the programs ahead of time where they lie, as what is published is: much of what a process that lives for
# seconds does is to compile itself. Where the compiler is not to be had, they run as they were built.
set -euo pipefail
source "$(dirname "${BASH_SOURCE[0]}")/common.sh"
bin="$root/artifacts/bin" work="$root/artifacts/ahead"
mkdir -p "$work/done"

# The SDK knows which compiler belongs to it.
cat >"$work/compiler.csproj" <<'XML'
<Project Sdk="Microsoft.NET.Sdk">
  <PropertyGroup>
    <TargetFramework>net10.0</TargetFramework>
    <Compiler>Microsoft.NETCore.App.Crossgen2.$(NETCoreSdkPortableRuntimeIdentifier)</Compiler>
  </PropertyGroup>
  <ItemGroup>
    <PackageDownload Include="$(Compiler)" Version="[$(BundledNETCoreAppPackageVersion)]" />
  </ItemGroup>
</Project>
XML
property() { dotnet msbuild "$work/compiler.csproj" "-getProperty:$1"; }
restored=$(dotnet restore "$work/compiler.csproj" -v quiet >/dev/null && echo true || echo false)
version=$(property BundledNETCoreAppPackageVersion)
shared=$(dotnet --list-runtimes | sed -n "s:^Microsoft.NETCore.App $version \[\(.*\)/.*:\1:p")
compiler="$(property NuGetPackageRoot)$(property Compiler | tr '[:upper:]' '[:lower:]')/$version/tools/crossgen2"
if ! "$restored" || [ -z "$shared" ] || [ ! -f "$compiler" ]; then
  echo "Nothing is compiled ahead of time: .NET $version has no compiler for that here." >&2
  exit 0
fi

done_of() { echo "$work/done/$(sha1sum <"$1" | cut -c1-40).dll"; }

compile() {
  local done
  done=$(done_of "$1")
  [ -f "$done" ] || "$compiler" "$1" -O --targetos linux -o "$done" -r "${1%/*}/*.dll" \
    -r "$shared/Microsoft.NETCore.App/$version/*.dll" -r "$shared/Microsoft.AspNetCore.App/$version/*.dll" \
    >/dev/null 2>&1 || rm -f "$done"
}
export compiler shared version work
export -f compile done_of

# What lies in several folders is the same; the second processor takes what the first has not.
sha1sum "$bin"/Kettlefog.{Service,Cli,Demo}/release/*.dll | sort -u -k1,1 | cut -c43- \
  | xargs -P "$(nproc)" -I '{}' bash -c 'compile "$1"' - '{}'
for file in "$bin"/Kettlefog.*/release/*.dll; do
  done=$(done_of "$file")
  [ ! -f "$done" ] || cp "$done" "$file"
done
