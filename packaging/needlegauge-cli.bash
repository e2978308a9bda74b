# bash completion of needlegauge-cli: calls, their options (asked of the program itself), files.
_needlegauge_cli() {
    local current=${COMP_WORDS[COMP_CWORD]} call="" word
    for word in "${COMP_WORDS[@]:1:COMP_CWORD-1}"; do
        [[ $word == -* ]] || { call=$word; break; }
    done
    if [[ $current == -* ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$(needlegauge-cli $call --help 2>/dev/null |
            grep -oE -- '(^|[ ,])--[a-z-]+' | tr -d ' ,')" -- "$current")
    elif [[ -z $call ]]; then
        mapfile -t COMPREPLY < <(compgen -W "solve check standards compare why marks template sheet report revise revisions faults study record section schema families import-body render train" -- "$current")
    else
        compopt -o filenames
        mapfile -t COMPREPLY < <(compgen -f -X '!*.@(ngjob|ngsection|nglog|ngtrain|dxf)' -- "$current"; compgen -d -- "$current")
    fi
}
complete -F _needlegauge_cli needlegauge-cli
