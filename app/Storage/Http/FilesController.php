<?php

declare(strict_types=1);

namespace App\Storage\Http;

use App\Estate\Connectors\FolderReader;
use App\Estate\Connectors\SourceError;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\OpenFolders;
use App\Storage\Application\Folders;
use App\Storage\Charts\ChunkFigure;
use App\Storage\Charts\PlaceFigure;
use App\Storage\Http\Requests\SendTableFileRequest;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FolderLayout;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\UploadedFile;

/**
 * Tables that are folders of Parquet files, known from their footers alone.
 */
final readonly class FilesController
{
    public function __construct(private Folders $folders, private FolderReader $reader)
    {
    }

    public function index(): View
    {
        return view('storage.layout-files', ['folders' => $this->folders->all(), 'roots' => OpenFolders::roots()]);
    }

    public function store(SendTableFileRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        try {
            $zip = $request->file('zip');
            $folder =
                $zip instanceof UploadedFile
                    ? $this->folders->unpack($zip->getRealPath(), $zip->getClientOriginalName())
                    : $this->folders->point((string) $request->string('path'));
        } catch (SourceError $error) {
            return back()
                ->withInput()
                ->withErrors(['path' => $error->getMessage()]);
        }
        $ledger->record($user, 'mapped a folder', $folder);

        return redirect(address('files.show', $folder));
    }

    public function show(Request $request, string $folder): View
    {
        $path = $this->folders->path($folder) ?? abort(404);
        try {
            [$table, $refused] = $this->reader->read($path, 'files.'.$folder);
        } catch (SourceError $error) {
            return view('storage.layout-folder', [
                'folder' => $folder,
                'table' => null,
                'trouble' => $error->getMessage(),
                'refused' => [],
            ]);
        }
        $columns = array_map(static fn ($column): string => $column->name, $table->definition->columns);
        $column = in_array($request->query('column'), $columns, true) ? $request->query('column') : $columns[0] ?? '';
        $sql = mb_substr($request->query->getString('sql'), 0, 20_000);
        [$workload, $unread] = $this->workload(
            $sql,
            $folder,
            array_combine($columns, array_map(static fn ($c) => $c->type, $table->definition->columns)),
        );
        $estate = new Estate([$table->name => $table], $workload, new ClusterRates(0.05, 0.0005, 0.001), Clock::microseconds());
        $overlap = $column === '' ? null : Overlap::of($table, $column);

        return view('storage.layout-folder', [
            'folder' => $folder,
            'table' => $table,
            'trouble' => null,
            'refused' => $refused,
            'column' => $column,
            'sql' => $sql,
            'unread' => $unread,
            'overlap' => $overlap,
            'chunkFigure' => $overlap === null || $table->chunks === [] ? null : ChunkFigure::of($table, $column, $overlap),
            'partitionFigure' => $table->definition->partitioning === null || $table->chunks === []
                ? null : PlaceFigure::partitions($table, null),
            'advice' => $table->chunks === [] ? [] : (new FullAdvice($estate))->of($table, FolderLayout::imagined($table, 8000), []),
        ]);
    }

    public function forget(#[CurrentUser] User $user, string $folder, Ledger $ledger): RedirectResponse
    {
        abort_if($this->folders->path($folder) === null && ! isset($this->folders->all()[$folder]), 404);
        $this->folders->forget($folder);
        $ledger->record($user, 'forgot a folder', $folder);

        return redirect(address('files.index'))->with('done', 'The folder is forgotten here; its files are where they were.');
    }

    /**
     * Statements people type: each counts as one execution a week.
     *
     * @param  array<string, \Fulcrion\Core\Catalog\ColumnType>  $types
     * @return array{Workload, int}
     */
    private function workload(string $sql, string $folder, array $types): array
    {
        $reader = new UseReader(["files.{$folder}" => array_change_key_case($types)]);
        $statements = [];
        $unread = 0;
        foreach ((new Parser())->split($sql) as [$from, $to]) {
            $text = substr($sql, $from, $to - $from);
            $uses = $reader->read((string) preg_replace('~\bfiles\b~i', '"files"."'.$folder.'"', $text, 1), 'files');
            if ($uses === null || $uses === []) {
                $unread++;
            } else {
                $statements[] = new StatementUse(hash('xxh128', $text), 1.0, 0.0, 0.0, $uses, $text);
            }
        }

        return [new Workload($statements, $unread), $unread];
    }
}
