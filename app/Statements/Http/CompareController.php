<?php

declare(strict_types=1);

namespace App\Statements\Http;

use App\Platform\Figures\BridgeFigure;
use App\Platform\Figures\Figure;
use App\Platform\Support\Export;
use App\Statements\Application\Sentences;
use App\Statements\Application\StatementScope;
use App\Statements\Application\TimeRail;
use App\Statements\Application\WindowComparison;
use Fulcrion\Core\Statements\StatementChange;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

final readonly class CompareController
{
    private const SHOWN = 60;

    public const MOVEMENTS = ['rose', 'fell', 'came', 'went'];

    public function __construct(private WindowComparison $comparison)
    {
    }

    public function show(Request $request, TimeRail $rail): View
    {
        $scope = self::scope($request);
        if ($scope === null || $scope->against === null) {
            return view('platform.no-cluster');
        }
        $result = $this->comparison->of($scope, $scope->against);
        $movement = in_array($request->query('movement'), self::MOVEMENTS, true) ? $request->query('movement') : '';
        $counts = array_count_values(array_map(static fn (StatementChange $change): string => $change->movement(), $result['changes']));
        $matching =
            $movement === ''
                ? $result['changes']
                : array_values(
                    array_filter($result['changes'], static fn (StatementChange $change): bool => $change->movement() === $movement),
                );
        $shown = array_slice($matching, 0, self::SHOWN);
        $rest =
            array_sum(array_map(static fn (StatementChange $change): float => $change->change(), $result['changes'])) -
            array_sum(array_map(static fn (StatementChange $change): float => $change->change(), $shown));

        return view('statements.compare', [
            'scope' => $scope,
            'rail' => $rail->of($scope->cluster),
            'result' => $result,
            'shown' => $shown,
            'rest' => $rest,
            'restCount' => count($result['changes']) - count($shown),
            'texts' => $this->comparison->texts($shown),
            'counts' => $counts,
            'movement' => $movement,
            'sentence' => $this->sentence($scope, $result),
            'figure' => $this->figure($result),
        ]);
    }

    public function export(Request $request, string $format): StreamedResponse
    {
        $scope = self::scope($request);
        $against = $scope->against ?? null;
        if ($scope === null || $against === null) {
            abort(404);
        }
        $changes = array_slice($this->comparison->of($scope, $against)['changes'], 0, 5_000);
        $texts = $this->comparison->texts($changes);

        return Export::table(
            $format,
            "comparison-{$scope->cluster->slug}",
            array_map(
                static fn (StatementChange $change): array => [
                    'fingerprint' => $texts[$change->statement]->fingerprint,
                    'movement' => $change->movement(),
                    'statement' => $texts[$change->statement]->text,
                    'load_before' => round($change->loadBefore, 9),
                    'load_after' => round($change->loadAfter, 9),
                    'change' => round($change->change(), 9),
                    'by_count' => round($change->byCount, 9),
                    'by_latency' => round($change->byLatency, 9),
                    'carried_over' => round($change->carriedOver(), 9),
                    'executions_before' => $change->executionsBefore,
                    'executions_after' => $change->executionsAfter,
                    'mean_us_before' => round($change->meanUsBefore, 1),
                    'mean_us_after' => round($change->meanUsAfter, 1),
                ],
                $changes,
            ),
        );
    }

    /**
     * @param  array{changes: list<StatementChange>, before: float, after: float}  $result
     */
    private function figure(array $result): ?Figure
    {
        if ($result['changes'] === []) {
            return null;
        }
        $leading = array_slice($result['changes'], 0, 8);
        $texts = $this->comparison->texts($leading);
        $steps = [];
        foreach ($leading as $change) {
            $steps[] = ['name' => $texts[$change->statement]->text, 'change' => $change->change()];
        }
        $rest = array_sum(array_map(static fn (StatementChange $change): float => $change->change(), array_slice($result['changes'], 8)));
        if (count($result['changes']) > 8) {
            $steps[] = ['name' => count($result['changes']) - 8 .' others', 'change' => $rest];
        }

        return BridgeFigure::draw('bridge', $result['before'], $result['after'], $steps);
    }

    private static function scope(Request $request): ?StatementScope
    {
        $scope = StatementScope::of($request);
        if ($scope !== null && $scope->against === null) {
            $request->query->set('against', 'the window before');
            $complaint = $scope->complaint;
            $scope = StatementScope::of($request);
            if ($scope !== null && $complaint !== null) {
                $scope = new StatementScope(
                    $scope->cluster,
                    $scope->window,
                    $scope->windowText,
                    $scope->zone,
                    $scope->filter,
                    $scope->against,
                    $scope->againstText,
                    $complaint,
                );
            }
        }

        return $scope;
    }

    /**
     * @param  array{changes: list<StatementChange>, before: float, after: float}  $result
     */
    private function sentence(StatementScope $scope, array $result): string
    {
        assert($scope->against !== null);
        if ($result['changes'] === []) {
            return "Nothing ran on {$scope->cluster->name} in either window.";
        }
        $change = $result['after'] - $result['before'];
        $text =
            'Load on '.
            $scope->cluster->name.
            ' went from '.
            Quantity::digits($result['before']).
            ' '.
            Sentences::span($scope->against, $scope).
            ' to '.
            Quantity::digits($result['after']).
            ' '.
            Sentences::window($scope);
        if (abs($change) < 1e-9 || abs($change) < 0.01 * $result['before']) {
            return $text.': no change to speak of.';
        }

        $up = array_sum(array_map(static fn (StatementChange $each): float => max(0.0, $each->change()), $result['changes']));
        $largest = $result['changes'][0];

        return $text.
            ': rises add up to '.
            Quantity::digits($up).
            ', falls to '.
            Quantity::digits($up - $change).
            '; the largest is one statement that '.
            $largest->movement().
            ', by '.
            Quantity::digits(abs($largest->change())).
            '.';
    }
}
