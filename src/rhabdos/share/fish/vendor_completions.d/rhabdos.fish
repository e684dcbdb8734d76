function _shtab_rhabdos_scan
  set -g _shtab_rhabdos_cmdpath ''
  set -g _shtab_rhabdos_npos 0
  set -l tokens (commandline -opc)
  set -e tokens[1]
  set -l expect_value 0
  for t in $tokens
    if test $expect_value -eq 1
      set expect_value 0
      continue
    end
    switch "$t"
      case '--*=*'
        continue
      case '-*'
        if contains -- $t $_shtab_rhabdos_opts_with_value
          set expect_value 1
        end
        continue
      case '*'
        if test $_shtab_rhabdos_npos -eq 0
          set -l candidate $t
          if test -n "$_shtab_rhabdos_cmdpath"
            set candidate "$_shtab_rhabdos_cmdpath $t"
          end
          if contains -- $candidate $_shtab_rhabdos_commands
            set -g _shtab_rhabdos_cmdpath $candidate
            continue
          end
        end
        set -g _shtab_rhabdos_npos (math $_shtab_rhabdos_npos + 1)
    end
  end
end

# Condition helper: true if the current (sub)command path equals the given one.
function _shtab_rhabdos_using
  _shtab_rhabdos_scan
  test "$_shtab_rhabdos_cmdpath" = "$argv"
end

set -g _shtab_rhabdos_commands variables convert numbers draw report
set -g _shtab_rhabdos_opts_with_value --data --dpi --each --format --integrate --letters --look --numbers --output --page --recipe --scales --size --title

complete -c rhabdos -e
complete -c rhabdos -f

complete -c rhabdos -n _shtab_rhabdos_using -s h -l help -d 'show this help message and exit'
complete -c rhabdos -n _shtab_rhabdos_using -l demo -d 'open the demo data, oyster landings at three bays'
complete -c rhabdos -n _shtab_rhabdos_using -l new-window -d 'open a window more, whatever is open'
complete -c rhabdos -n _shtab_rhabdos_using -l integrate -xka "add remove" -d 'put the program into the menu of the desktop, for this user, or take it out'
complete -c rhabdos -n _shtab_rhabdos_using -s V -l version -d 'show program'"'"'s version number and exit'
complete -c rhabdos -n '_shtab_rhabdos_using; and test $_shtab_rhabdos_npos -eq 0' -a variables -d 'Lists each variable of a file with its kind, how many values it has and lacks, its levels, and what looks wrong with it. Remarks go to standard error.'
complete -c rhabdos -n '_shtab_rhabdos_using variables' -s h -l help -d 'show this help message and exit'
complete -c rhabdos -n '_shtab_rhabdos_using variables' -l format -xka "text json" -d 'as lines to read, or JSON'
complete -c rhabdos -n '_shtab_rhabdos_using variables' -l recipe -xka "(__fish_complete_path (commandline -ct))" -d 'prepare the data by its steps first'
complete -c rhabdos -n '_shtab_rhabdos_using variables; and test $_shtab_rhabdos_npos -eq 0' -ka "(__fish_complete_path (commandline -ct))" -d 'the data'
complete -c rhabdos -n '_shtab_rhabdos_using; and test $_shtab_rhabdos_npos -eq 0' -a convert -d 'Writes the rows of a file as CSV or Parquet, after the steps of a recipe if one is named.'
complete -c rhabdos -n '_shtab_rhabdos_using convert' -s h -l help -d 'show this help message and exit'
complete -c rhabdos -n '_shtab_rhabdos_using convert' -l recipe -xka "(__fish_complete_path (commandline -ct))" -d 'the recipe whose steps prepare it'
complete -c rhabdos -n '_shtab_rhabdos_using convert; and test $_shtab_rhabdos_npos -eq 0' -ka "(__fish_complete_path (commandline -ct))" -d 'the data'
complete -c rhabdos -n '_shtab_rhabdos_using convert; and test $_shtab_rhabdos_npos -eq 1' -ka "(__fish_complete_path (commandline -ct))" -d 'a .csv or a .parquet'
complete -c rhabdos -n '_shtab_rhabdos_using; and test $_shtab_rhabdos_npos -eq 0' -a numbers -d 'Prints bins, heights, curves, boxes, summaries and comparisons of a figure, with all digits.'
complete -c rhabdos -n '_shtab_rhabdos_using numbers' -s h -l help -d 'show this help message and exit'
complete -c rhabdos -n '_shtab_rhabdos_using numbers' -l data -xka "(__fish_complete_path (commandline -ct))" -d 'the data: a file, a folder of Parquet files, or an address; needed unless the recipe'"'"'s steps make them'
complete -c rhabdos -n '_shtab_rhabdos_using numbers' -l format -xka "json csv" -d 'as JSON, or as rows of CSV'
complete -c rhabdos -n '_shtab_rhabdos_using numbers; and test $_shtab_rhabdos_npos -eq 0' -ka "(__fish_complete_path (commandline -ct))" -d 'a recipe, or a work (.rhabdos)'
complete -c rhabdos -n '_shtab_rhabdos_using; and test $_shtab_rhabdos_npos -eq 0' -a draw -d 'Draws a recipe of some data, or all figures of a work, as PNG, SVG or PDF; with --each one figure for each variable, level or file.'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -s h -l help -d 'show this help message and exit'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l data -xka "(__fish_complete_path (commandline -ct))" -d 'the data: a file, a folder of Parquet files, or an address; needed unless the recipe'"'"'s steps make them'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l each -x -d 'one figure for each: variable, level:FACTOR, or file (of those after --data)'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l scales -xka "free same" -d 'of many figures: each its own axes, or all the same where they can (free)'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l one-page -d 'of many figures: all set together on one page'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l page -x -d 'of a work: its page of that number'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l numbers -xka "(__fish_complete_path (commandline -ct))" -d 'of many figures: a file for all numbers'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l output -xka "(__fish_complete_path (commandline -ct))" -d 'a .png, .svg or .pdf; of many figures with {name} or {number} in it, or a .pdf for a page each; repeatable'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l size -x -d 'such as 16x10cm or 1600x1000px; by default the recipe'"'"'s'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l dpi -x -d 'dots per inch of a PNG (300)'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l transparent -d 'leave the paper out'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l letters -xka "text embedded outlines" -d 'how an SVG holds words (text)'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l look -x -d 'a look that was saved, by its name or file'
complete -c rhabdos -n '_shtab_rhabdos_using draw' -l without-recipe -d 'leave the recipe out of the files'
complete -c rhabdos -n '_shtab_rhabdos_using draw; and test $_shtab_rhabdos_npos -eq 0' -ka "(__fish_complete_path (commandline -ct))" -d 'a recipe, or a work (.rhabdos)'
complete -c rhabdos -n '_shtab_rhabdos_using; and test $_shtab_rhabdos_npos -eq 0' -a report -d 'Writes sentences, tables, notices, methods and figures of a recipe or a work as one HTML page, PDF or Markdown.'
complete -c rhabdos -n '_shtab_rhabdos_using report' -s h -l help -d 'show this help message and exit'
complete -c rhabdos -n '_shtab_rhabdos_using report' -l data -xka "(__fish_complete_path (commandline -ct))" -d 'the data: a file, a folder of Parquet files, or an address; needed unless the recipe'"'"'s steps make them'
complete -c rhabdos -n '_shtab_rhabdos_using report' -l output -xka "(__fish_complete_path (commandline -ct))" -d 'an .html, .pdf or .md'
complete -c rhabdos -n '_shtab_rhabdos_using report' -l title -x -d 'what stands over it'
complete -c rhabdos -n '_shtab_rhabdos_using report; and test $_shtab_rhabdos_npos -eq 0' -ka "(__fish_complete_path (commandline -ct))" -d 'a recipe, or a work (.rhabdos)'
