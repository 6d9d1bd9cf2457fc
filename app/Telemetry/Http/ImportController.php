<?php

declare(strict_types=1);

namespace App\Telemetry\Http;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use App\Platform\Support\Uploads;
use App\Telemetry\Http\Requests\SendImportRequest;
use App\Telemetry\Intake\RunImport;
use App\Telemetry\Models\Import;
use App\Telemetry\Sources\CsvSource;
use App\Telemetry\Sources\Format;
use App\Telemetry\Sources\LineFile;
use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\Validation\ValidationException;
use Symfony\Component\HttpFoundation\StreamedResponse;

final readonly class ImportController
{
    public function index(): View
    {
        return view('telemetry.imports', [
            'imports' => Import::query()
                ->with(['cluster', 'user'])
                ->orderByDesc('created_at')
                ->limit(100)
                ->get(),
            'clusters' => Cluster::query()->orderBy('name')->get(),
        ]);
    }

    public function store(SendImportRequest $request, #[CurrentUser] User $user, Journal $journal): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $file = $request->file('file');
        assert($file instanceof \Illuminate\Http\UploadedFile);
        if ($file->getSize() === 0) {
            throw ValidationException::withMessages(['file' => 'The file is empty. Nothing was taken.']);
        }
        $path = Uploads::path();
        $file->move(dirname($path), basename($path));
        $format = Format::detect(new LineFile($path));
        $import = new Import();
        $import->forceFill([
            'cluster_id' => $cluster->id,
            'user_id' => $request->user()?->getAuthIdentifier(),
            'file_name' => mb_strcut(mb_scrub($file->getClientOriginalName()), 0, 255),
            'path' => $path,
            'format' => $format,
            'state' => 'waiting',
            'bytes_total' => (int) filesize($path),
            'accepted' => 0,
            'repeated' => 0,
            'rejected' => 0,
        ]);
        if ($format === Format::Csv) {
            $header = CsvSource::head(new LineFile($path))[1] ?? [];
            $saved = DB::table('column_maps')
                ->where('cluster_id', $cluster->id)
                ->where('header_digest', self::digest($header))
                ->value('columns');
            $import->columns = is_string($saved) ? json_decode($saved, true) : ColumnMap::guess($header)->fields;
            $import->state = is_string($saved) || ColumnMap::isOurs($header) ? 'waiting' : 'mapping';
        }
        $import->save();
        $journal->record($user, 'uploaded a file', $import->file_name, ['cluster' => $cluster->slug, 'import' => $import->id]);
        if ($import->state === 'mapping') {
            return redirect(address('import.columns', $import->id));
        }
        RunImport::dispatch($import->id);

        return redirect(address('import.show', $import->id));
    }

    public function show(Request $request, Import $import): View
    {
        $data = [
            'import' => $import->load(['cluster', 'user']),
            'rejections' => DB::table('rejected_records')
                ->where('import_id', $import->id)
                ->orderBy('line')
                ->limit(100)
                ->get(['line', 'field', 'reason']),
            'reasons' => DB::table('rejected_records')
                ->where('import_id', $import->id)
                ->groupBy('field', 'reason')
                ->orderByDesc('records')
                ->limit(20)
                ->get(['field', 'reason', DB::raw('COUNT(*) AS records')]),
        ];

        return $request->header('HX-Request') !== null ? view('telemetry.import-progress', $data) : view('telemetry.import', $data);
    }

    public function columns(Import $import): View
    {
        $file = new LineFile(self::waiting($import));
        [$separator, $header] = CsvSource::head($file) ?? abort(404);
        $examples = [];
        for ($i = 0; $i < 3 && ($line = $file->next()) !== null; $i++) {
            $examples[] = str_getcsv(rtrim($line, "\r\n"), $separator, '"', '');
        }

        return view('telemetry.import-columns', [
            'import' => $import,
            'header' => $header,
            'examples' => $examples,
            'fields' => ExecutionReader::FIELDS,
            'map' => new ColumnMap($import->columns ?? []),
        ]);
    }

    public function saveColumns(Request $request, Import $import): RedirectResponse
    {
        $header = CsvSource::head(new LineFile(self::waiting($import)))[1] ?? [];
        $fields = [];
        foreach (ExecutionReader::FIELDS as $field) {
            $column = $request->input("column.{$field}");
            if (is_string($column) && in_array($column, $header, true)) {
                $unit = $request->input("unit.{$field}");
                $fields[$field] = ['column' => $column, 'unit' => is_string($unit) && isset(ColumnMap::UNITS[$unit]) ? $unit : 'us'];
            }
        }
        $missing = (new ColumnMap($fields))->missing();
        if ($missing !== []) {
            return back()
                ->withInput()
                ->with(
                    'failed',
                    'No column is chosen for '.implode(' and ', $missing).'. These three are required: started_at, duration_us, sql.',
                );
        }
        $import->forceFill(['columns' => $fields, 'state' => 'waiting'])->save();
        DB::table('column_maps')->upsert(
            [['cluster_id' => $import->cluster_id, 'header_digest' => self::digest($header), 'columns' => json_encode($fields)]],
            ['cluster_id', 'header_digest'],
            ['columns'],
        );
        RunImport::dispatch($import->id);

        return redirect(address('import.show', $import->id))->with(
            'done',
            'The columns are remembered for files with this header on this cluster.',
        );
    }

    public function stop(Import $import): RedirectResponse
    {
        if ($import->state === 'waiting' || $import->state === 'mapping') {
            $import->forceFill(['state' => 'stopped', 'ended_at' => Clock::now()])->save();
        } elseif (! $import->isOver()) {
            $import->askToStop();
        }

        return redirect(address('import.show', $import->id))->with(
            'done',
            'The import stops after the batch in hand. What was taken stays; the same file can be sent again to go on.',
        );
    }

    public function rejected(Import $import, Encrypter $encrypter): StreamedResponse
    {
        $isCsv = $import->format === Format::Csv;

        return response()->streamDownload(
            static function () use ($import, $encrypter, $isCsv): void {
                $headed = false;
                foreach (DB::table('rejected_records')->where('import_id', $import->id)->orderBy('line')->lazy(500) as $row) {
                    $raw = (string) $encrypter->decrypt($row->sealed, false);
                    if ($isCsv) {
                        // Each kept record carries the header; it is written once.
                        [$head, $record] = explode("\n", $raw, 2);
                        echo $headed ? '' : $head."\n";
                        $headed = true;
                        $raw = $record;
                    }
                    echo rtrim($raw, "\r\n")."\n";
                }
            },
            "rejected-{$import->id}.".($import->format === Format::SlowLog ? 'log' : $import->format->value),
            ['Content-Type' => 'application/octet-stream'],
        );
    }

    /**
     * @param  list<string>  $header
     */
    private static function digest(array $header): string
    {
        return hash('xxh3', implode("\0", $header));
    }

    /** Path of a file whose columns are not known yet. */
    private static function waiting(Import $import): string
    {
        return $import->state === 'mapping' && $import->path !== null ? $import->path : abort(404);
    }
}
