<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Platform\Parts\OwnPart;
use App\Platform\Parts\PartBook;
use Illuminate\Contracts\View\View;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Str;

/**
 * How the application itself is: for machines that ask whether it is up, for those that keep measures, and for people.
 */
final readonly class PartsController
{
    public const ABILITY = 'parts:read';

    private const MARKS = ['calm' => 0, 'watch' => 1, 'act' => 2];

    public function __construct(private PartBook $parts)
    {
    }

    /** Up as soon as it answers; how its parts are where that is asked for. Details are for those who are signed in. */
    public function up(Request $request): Response|JsonResponse
    {
        if (! $request->wantsJson()) {
            return response('up');
        }
        $parts = $this->parts->all();

        return response()->json([
            'state' => PartBook::worst($parts),
            'parts' => array_map(static fn (OwnPart $part): string => $part->mark, $parts),
        ], isset($parts['database']) && $parts['database']->mark === 'no data' ? 503 : 200);
    }

    public function show(): View
    {
        $parts = $this->parts->all();
        $wrong = array_filter($parts, static fn (OwnPart $part): bool => $part->mark !== 'calm');

        return view('platform.parts', ['parts' => $parts, 'sentence' => $wrong === [] ? 'All parts of Fulcrion work'
            : (count($wrong) === 1 ? Str::ucfirst((string) array_key_first($wrong)).' needs somebody' : count($wrong).' of '.count($parts)
                .' parts need somebody')]);
    }

    /** As OpenMetrics text, for the owner of a token that may read it. */
    public function metrics(Request $request): Response|JsonResponse
    {
        if ($request->user('sanctum')?->tokenCan(self::ABILITY) !== true) {
            return response()->json(['message' => 'This token may not read how Fulcrion is.'], 403);
        }
        $lines = ["# TYPE fulcrion_part_state gauge\n# HELP fulcrion_part_state 0 calm, 1 to be watched, 2 to be acted on"];
        $measures = [];
        foreach ($this->parts->all() as $name => $part) {
            $label = Str::snake($name);
            if (isset(self::MARKS[$part->mark])) {
                $lines[] = "fulcrion_part_state{part=\"{$label}\"} ".self::MARKS[$part->mark];
            }
            foreach ($part->measures as $measure => $value) {
                $measures["fulcrion_{$label}_{$measure}"] = $value;
            }
        }
        foreach ($measures as $name => $value) {
            $unit = Str::afterLast($name, '_');
            $lines[] = "# TYPE {$name} gauge".(in_array($unit, ['seconds', 'bytes', 'ratio'], true) ? "\n# UNIT {$name} {$unit}" : '');
            $lines[] = "{$name} ".rtrim(rtrim(sprintf('%.6F', $value), '0'), '.');
        }

        return response(implode("\n", $lines)."\n# EOF\n", 200,
            ['Content-Type' => 'application/openmetrics-text; version=1.0.0; charset=utf-8']);
    }
}
