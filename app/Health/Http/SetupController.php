<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Health\Application\Setup;
use App\Metrics\Places\KeptPlace;
use App\Metrics\Places\PlaceError;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/**
 * What monitoring of a cluster needs, step by step.
 */
final readonly class SetupController
{
    public function __construct(private Setup $setup)
    {
    }

    public function show(string $slug): View
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();

        return view('health.setup', [
            'cluster' => $cluster, 'steps' => $this->setup->steps($cluster), 'compared' => session('compared'),
            'place' => KeptPlace::of($cluster->id),
            'clusters' => Cluster::query()->orderBy('name')->get(),
        ]);
    }

    public function compare(string $slug): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        try {
            return redirect()->route('setup.show', $slug)->with('compared', $this->setup->compare($cluster));
        } catch (SourceError|PlaceError $error) {
            return redirect()->route('setup.show', $slug)->with('failed', $error->getMessage());
        }
    }
}
