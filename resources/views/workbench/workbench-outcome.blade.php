@php use Fulcrion\Core\Text\Quantity; @endphp
@foreach($outcomes as ['run' => $run, 'sql' => $sql, 'result' => $result, 'plan' => $plan, 'error' => $error, 'notes' => $notes])
<section class="outcome" data-outcome>
    @if(count($outcomes) > 1)<pre class="sql small" tabindex="0">{{ App\Platform\Support\Sql::pretty(App\Platform\Support\Sql::line($sql,
        400), $cluster->dialect) }}</pre>@endif
    @if($error !== null)
        <div class="notice bad" role="alert">
            <p>@unless($error->stopped)<strong>Not run.</strong> @endunless{{ $error->getMessage() }}</p>
            @if($error->limit !== null)
                <p><a href="{{ address('limit.show', $error->limit) }}">Look at the limit</a></p>
            @elseif($error->refused && $error->decision !== null)
                <p><a href="{{ address('decision.show', $error->decision) }}">Why, and what would allow it</a></p>
            @elseif($error->decision !== null)
                <p class="quiet">Where you see a part of a table only, errors name no value. <a href="{{ address('decision.show',
                    $error->decision) }}">What was decided</a></p>
            @endif
            @if($error->offset !== null)
                @php
                    $before = substr($sql, 0, $error->offset);
                    $line = substr_count($before, "\n");
                    $lines = explode("\n", $sql);
                    $lead = mb_strlen((string) substr($before, (int) strrpos("\n".$before, "\n")));
                    $cut = max(0, $lead - 60);
                @endphp
                {{-- The editor counts units of UTF-16. --}}
                <pre class="mark-line" data-mistake-in="{{ $sql }}" data-mistake-at="{{
                    intdiv(strlen((string) mb_convert_encoding($before, 'UTF-16LE', 'UTF-8')), 2) }}">{{
                    mb_substr($lines[$line] ?? '', $cut, 120) }}
{{ str_repeat(' ', $lead - $cut) }}^</pre>
            @endif
            <p class="quiet">Nothing was changed{{ count($outcomes) > 1 ? '; statements before it were run, those behind it were not'
                : '' }}.</p>
        </div>
    @else
        <p class="told">
            @if($result !== null && $result->columns !== [])<strong>{{ Quantity::count(count($result->rows)) }} {{
                count($result->rows) === 1 ? 'row' : 'rows' }}</strong>{{ $result->cut ? ', cut there: there are more' : '' }}.
            @elseif($result !== null)<strong>{{ $result->message ?: 'Done.' }}</strong>
            @elseif($plan !== null)<strong>{{ App\Statements\Application\PlanWords::sentence($plan,
                (new Fulcrion\Core\Plans\PlanRules)->check($plan)) }}.</strong>@endif
            @if($run->elapsed_us)<span class="quiet">Here it took {{
                Quantity::duration((int) $run->elapsed_us) }} (measured)@if($run->modelled_us); on the modelled cluster it would take {{
                Quantity::duration((int) $run->modelled_us) }}@endif.</span>@endif
            @if($run->plan_id)<a href="{{ address('plan.show', $run->plan_id) }}">Open the plan</a>@endif
        </p>
        @foreach($notes as $note)<p class="quiet small" role="note">{{ $note }}</p>@endforeach
        @if($result !== null && $result->columns !== [])
            <div class="tools">
                @foreach(['csv' => 'CSV', 'json' => 'JSON', 'xlsx' => 'XLSX', 'parquet' => 'Parquet'] as $format => $label)<a href="{{
                    address('workbench.download', [$run->key, $format]) }}" download>{{ $label }}</a>@endforeach
                <button type="button" class="plain" data-copies>Copy</button>
            </div>
            <x-table name="Result" :export="false" :sorts="false" fit="result" data-result>
                    <thead><tr>@foreach($result->columns as $column)<th scope="col" @class(['n' => $column->type->isNumber()])><button
                        type="button" class="plain" data-sort-number="{{ $column->type->isNumber() ? 1 : 0 }}">{{
                        $column->name }}</button><br><span class="quiet small">{{ $column->type }}</span></th>@endforeach</tr></thead>
                    <tbody>@foreach(array_slice($result->rows, 0, 500) as $row)<tr>@foreach($result->columns as $i => $column)
                        <td @class(['n' => $column->type->isNumber(), 'mono' => true])>@if($row[$i] === null)<span
                        class="quiet">NULL</span>@else{{ mb_strimwidth($column->type->show($row[$i]), 0, 300,
                        '…') }}@endif</td>@endforeach</tr>@endforeach</tbody>
                </x-table>
            @if(count($result->rows) > 500)<p class="quiet small">500 of {{
                Quantity::count(count($result->rows)) }} rows are shown; the files hold all of them.</p>@endif
        @elseif($result === null && $plan !== null)
            <div class="scroll" tabindex="0" role="group" aria-label="Plan">{!! (new App\Statements\Charts\PlanFigure($plan,
                address('plan.show', $run->plan_id)))->svg() !!}</div>
        @endif
    @endif
</section>
@endforeach
