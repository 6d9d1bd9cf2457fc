<?php

declare(strict_types=1);

namespace App\Metrics\Http;

use App\Estate\Models\Cluster;
use App\Metrics\Http\Requests\PlaceRequest;
use App\Metrics\Places\KeptPlace;
use App\Metrics\Places\MovePlace;
use App\Metrics\Places\PlaceError;
use App\Metrics\Places\PlaceState;
use App\Metrics\Places\PlaceTables;
use App\Platform\Models\User;
use App\Platform\Support\Journal;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/**
 * Where the readings of a cluster are kept.
 */
final readonly class PlaceController
{
    public function __construct(private PlaceTables $tables, private Journal $journal)
    {
    }

    /** How far a move has come. */
    public function show(string $slug): View
    {
        $cluster = self::cluster($slug);

        return view('metrics.place-progress', [
            'cluster' => $cluster, 'place' => KeptPlace::of($cluster->id),
        ]);
    }

    public function set(PlaceRequest $request, string $slug, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = self::cluster($slug);
        $known = KeptPlace::of($cluster->id);
        $asked = $request->place($cluster->id);
        if ($known !== null && $known->state->isMoving()) {
            return back()->with('failed', 'The readings are being moved. Wait for that, or stop it first.');
        }
        try {
            if ($known === null) {
                $this->tables->make($asked);
            } elseif (! $this->tables->isOurs($asked)) {
                return back()->withInput($request->except('secret'))->with('failed', "The readings are kept in {$known->said()}, and "
                    ."{$asked->said()} does not have them. Take them back here first; then name the other database.");
            }
        } catch (PlaceError $error) {
            return back()->withInput($request->except('secret'))->with('failed', $error->getMessage());
        }
        if ($known !== null) {
            $known->update($asked->only(['host', 'port', 'name', 'username', 'secret', 'tls']));
            $this->record($user, 'changed how the readings elsewhere are reached', $cluster, $known);

            return back()->with('done', "Saved. The readings are kept in {$known->said()}.");
        }
        $asked->save();
        MovePlace::dispatch($asked->id);
        $this->record($user, 'moves readings to another server', $cluster, $asked);

        return back();
    }

    /** Goes on with a move that broke off. */
    public function again(string $slug): RedirectResponse
    {
        $place = KeptPlace::query()->where('cluster_id', self::cluster($slug)->id)->whereNotNull('error')->first();
        if ($place !== null) {
            $place->update(['error' => null]);
            MovePlace::dispatch($place->id);
        }

        return back();
    }

    /** Takes the readings back, or calls a move off that has not been made. */
    public function back(string $slug, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = self::cluster($slug);
        $place = KeptPlace::of($cluster->id);
        if ($place === null || $place->state === PlaceState::Left) {
            return back();
        }
        if ($place->state === PlaceState::There) {
            $place->update(['state' => PlaceState::Leaving, 'rows_moved' => 0, 'rows_all' => 0, 'error' => null]);
            $this->record($user, 'takes readings back from another server', $cluster, $place);
        } else {
            // What was copied is in the way where it was copied to.
            $place->update(['state' => $place->state === PlaceState::Coming ? PlaceState::Left : PlaceState::There, 'error' => null]);
            $this->record($user, 'stopped moving readings', $cluster, $place);
        }
        MovePlace::dispatch($place->id);

        return back();
    }

    private function record(User $user, string $act, Cluster $cluster, KeptPlace $place): void
    {
        $this->journal->record($user, $act, $cluster->name, ['to' => $place->said()]);
    }

    private static function cluster(string $slug): Cluster
    {
        return Cluster::query()->where('slug', $slug)->firstOrFail();
    }
}
