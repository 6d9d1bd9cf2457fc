<?php

declare(strict_types=1);

namespace App\Workbench\Http;

use App\Estate\Authorization\Clusters;
use App\Estate\Catalog\CatalogObject;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Workbench\Application\EditorWords;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

final readonly class CatalogController
{
    private const SORTS = ['name', 'rows', 'bytes'];

    public function __construct(private Clusters $clusters)
    {
    }

    /** What an editor offers for a cluster: read when somebody begins to type. */
    public function words(Request $request, #[CurrentUser] User $user, EditorWords $words): JsonResponse
    {
        $cluster = Cluster::query()
            ->where('slug', $request->query->getString('cluster'))
            ->firstOrFail();

        return response()
            ->json($words->of($cluster, $user))
            ->header('Cache-Control', 'private, max-age=60');
    }

    public function index(Request $request, #[CurrentUser] User $user): View
    {
        $clusters = Cluster::all()->sortByDesc(static fn (Cluster $cluster): bool => $cluster->role === 'production')->values();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));
        $words = mb_strtolower(mb_substr($request->query->getString('words'), 0, 100));
        $sort = in_array($request->query('sort'), self::SORTS, true) ? $request->query('sort') : 'bytes';
        $objects = [];
        $trouble = null;
        $able = $cluster !== null && $cluster->connector !== 'files';
        try {
            $objects = $cluster === null ? [] : $this->clusters->for($user, 'catalog')->objects($cluster) ?? [];
        } catch (SourceError $error) {
            $trouble = $error->getMessage();
        }
        $all = count($objects);
        $bytes = array_sum(array_map(static fn (CatalogObject $object): int => $object->bytes ?? 0, $objects));
        $shown = array_values(
            array_filter(
                $objects,
                static fn (CatalogObject $object): bool => $words === '' ||
                    str_contains(
                        mb_strtolower("{$object->schema}.{$object->name} ".implode(' ', array_column($object->columns, 0))),
                        $words,
                    ),
            ),
        );
        usort(
            $shown,
            static fn (CatalogObject $a, CatalogObject $b): int => match ($sort) {
                'rows' => $b->rows <=> $a->rows,
                'bytes' => $b->bytes <=> $a->bytes,
                default => "{$a->schema}.{$a->name}" <=> "{$b->schema}.{$b->name}",
            },
        );
        usort($objects, static fn (CatalogObject $a, CatalogObject $b): int => $b->bytes <=> $a->bytes);
        $largest = $objects[0] ?? null;

        return view('workbench.catalog', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'objects' => $shown,
            'trouble' => $trouble,
            'able' => $able,
            'words' => $words,
            'sort' => $sort,
            'sentence' => match (true) {
                $cluster === null => 'No cluster is connected',
                ! $able => "{$cluster->name} is known from files only, so its tables cannot be listed",
                $trouble !== null => "{$cluster->name} does not tell what it holds",
                $largest === null || $bytes === 0 => "{$cluster->name} holds no table",
                default => "{$cluster->name} holds {$all} tables and views in ".
                    Quantity::bytes($bytes).
                    "; {$largest->schema}.{$largest->name} is ".
                    Quantity::percent(($largest->bytes ?? 0) / $bytes).
                    ' of it',
            },
        ]);
    }

    public function show(Request $request, string $slug, string $schema, string $name): View
    {
        $cluster = Cluster::named($slug);
        try {
            $user = $request->user();
            assert($user instanceof User);
            foreach ($this->clusters->for($user, 'catalog')->objects($cluster) ?? [] as $object) {
                if ($object->schema === $schema && $object->name === $name) {
                    return view('workbench.catalog-object', ['cluster' => $cluster, 'object' => $object]);
                }
            }
        } catch (SourceError $error) {
            abort(503, $error->getMessage());
        }
        abort(404);
    }
}
