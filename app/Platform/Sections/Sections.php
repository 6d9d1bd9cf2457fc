<?php

declare(strict_types=1);

namespace App\Platform\Sections;

use App\Platform\Models\User;
use Closure;
use Illuminate\Contracts\Auth\Access\Gate;
use Illuminate\Support\Facades\Route;
use Illuminate\Support\Str;

/**
 * What the capabilities that are installed bring along: the frame around pages knows none of them by name.
 */
final class Sections
{
    /** @var list<Closure(): list<Page>> */
    private array $pages = [];

    /** @var list<string> */
    private array $folders = [];

    /** @var list<Closure(User): (list<string>|null)> */
    private array $limits = [];

    /**
     * @param  Closure(): list<Page>  $pages asked only where the navigation is shown
     */
    public function add(string $folder, Closure $pages): void
    {
        $this->folders[] = $folder;
        $this->pages[] = $pages;
    }

    /**
     * Keeps some people to some pages, whatever their role.
     *
     * @param  Closure(User): (list<string>|null)  $routes names of routes they may open, with * for any ending; the first is where they
     *     begin; null for whom it does not keep
     */
    public function limit(Closure $routes): void
    {
        $this->limits[] = $routes;
    }

    /**
     * @return list<string>|null names of the routes somebody is kept to; null for all
     */
    public function keptTo(User $user): ?array
    {
        foreach ($this->limits as $limit) {
            $routes = $limit($user);
            if ($routes !== null) {
                return $routes;
            }
        }

        return null;
    }

    /**
     * The benches somebody sees, each with its pages by group: the first page is where the bench opens.
     *
     * @return list<array{bench: Bench, address: string, groups: array<string, list<Page>>}>
     */
    public function navigation(Gate $gate, User $user): array
    {
        $kept = $this->keptTo($user);
        $all = array_merge(...array_map(static fn (Closure $pages): array => $pages(), $this->pages));
        $benches = [];
        foreach (Bench::cases() as $bench) {
            $groups = array_fill_keys($bench->groups(), []);
            foreach ($all as $page) {
                if (
                    $page->bench === $bench && ($page->ability === '' || $gate->allows($page->ability))
                    && ($kept === null || Str::is($kept, $page->route))
                ) {
                    $groups[$page->group][] = $page;
                }
            }
            foreach ($groups as &$pages) {
                usort($pages, static fn (Page $a, Page $b): int => $a->rank <=> $b->rank);
            }
            unset($pages);
            $groups = array_filter($groups, static fn (array $pages): bool => $pages !== []);
            $first = reset($groups)[0] ?? null;
            if ($first !== null) {
                $benches[] = [
                    'bench' => $bench,
                    'address' => $first->address(),
                    'groups' => array_map(
                        static fn (array $pages): array => array_values(
                            array_filter($pages, static fn (Page $page): bool => $page->name !== ''),
                        ),
                        $groups,
                    ),
                ];
            }
        }

        return $benches;
    }

    /** Makes the addresses of all capabilities known. */
    public function routes(): void
    {
        foreach ($this->folders as $folder) {
            if (is_file("{$folder}/routes.php")) {
                Route::middleware('web')->group("{$folder}/routes.php");
            }
            if (is_file("{$folder}/api.php")) {
                Route::middleware('api')
                    ->prefix('api')
                    ->group("{$folder}/api.php");
            }
        }
    }
}
