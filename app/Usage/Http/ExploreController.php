<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageParquet;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Application\ExplorePage;
use App\Usage\Http\Requests\KeepViewRequest;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Symfony\Component\HttpFoundation\Response;

/**
 * Any measure by any two fields.
 */
final readonly class ExploreController
{
    /** Values that are offered for a filter. */
    private const VALUES = 24;

    public function __construct(private UsageReader $reader)
    {
    }

    public function show(Request $request): View
    {
        $page = $this->page($request);
        $asked = $request->query('filter');
        $filter = is_string($asked) ? UsageField::tryFrom($asked) : null;
        $values = [];
        if ($filter !== null) {
            $values = $this->reader->by($filter, $page->scope, $page->scope->days);
            uasort($values, static fn ($a, $b): int => $b->amount <=> $a->amount);
        }

        return view('usage.explore', [
            'page' => $page,
            'filter' => $filter,
            'values' => array_map(strval(...), array_slice(array_keys($values), 0, self::VALUES)),
            'views' => DB::table('usage_views')
                ->join('users', 'users.id', '=', 'usage_views.user_id')
                ->orderBy('usage_views.name')
                ->get(['usage_views.*', 'users.name as maker']),
        ]);
    }

    public function export(Request $request, string $format): Response
    {
        $page = $this->page($request);
        $name = "usage-by-{$page->rows->label()}-and-{$page->columns->label()}";

        return $format === 'parquet'
            ? response(UsageParquet::of($page->table()), 200, [
                'Content-Type' => 'application/vnd.apache.parquet',
                'Content-Disposition' => "attachment; filename=\"{$name}.parquet\"",
            ])
            : Export::table($format, $name, $page->table());
    }

    public function keep(KeepViewRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        DB::table('usage_views')->insert([
            'name' => $data['name'], 'query' => $data['query'], 'user_id' => $user->id, 'made_us' => Clock::microseconds(),
        ]);

        return redirect(address('usage.explore').'?'.$data['query'])->with('done', "Kept as {$data['name']}.");
    }

    public function forget(#[CurrentUser] User $user, int $view): RedirectResponse
    {
        $kept = DB::table('usage_views')->where('id', $view)->first() ?? abort(404);
        abort_unless((int) $kept->user_id === $user->id, 403, 'Whoever kept a view removes it.');
        DB::table('usage_views')->where('id', $view)->delete();

        return redirect(address('usage.explore').'?'.$kept->query)->with('done', "{$kept->name} is removed.");
    }

    private function page(Request $request): ExplorePage
    {
        $axis = static fn (string $name, string $default): UsageAxis => UsageAxis::of(
            is_string($request->query($name)) ? $request->query($name) : $default,
        ) ?? UsageAxis::of($default) ?? abort(404);

        return ExplorePage::of(
            UsageScope::of($request, Clock::seconds()),
            $axis('rows', 'team'),
            $axis('columns', 'day'),
            $this->reader,
        );
    }
}
