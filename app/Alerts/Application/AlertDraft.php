<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Alert;
use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSources;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\Watched;
use InvalidArgumentException;

/**
 * A condition as somebody fills it in, whole at any time: what is not filled in, or cannot be, is as it usually is.
 */
final readonly class AlertDraft
{
    private const MOST_MINUTES = 7 * 1_440;

    private const MINUTES = 15.0;

    /** Calm is so far from the threshold. */
    private const CALM = [0.9, 1.1];

    /**
     * @param  Alert  $alert not saved
     * @param  array<string, string>  $complaints by field
     * @param  array<string, string>  $fields as they stand in the form
     */
    private function __construct(public Alert $alert, public ?Signal $signal, public array $complaints, public array $fields)
    {
    }

    /**
     * @param  array<array-key, mixed>  $asked by field, in the units of the form
     * @param  Alert|null  $known what is not asked for is as there
     */
    public static function of(Cluster $cluster, array $asked, SignalSources $sources, ?Alert $known = null): self
    {
        $fields = new AlertFields($asked);
        $signal = self::signal($cluster, $fields, $sources, $known);
        $same = $known?->signal === $signal?->key ? $known : null;
        $watched = self::watched($fields, $signal, $same);
        // What is of another kind is in other units.
        $same = $same?->watched === $watched ? $same : null;
        $alert = new Alert([
            'cluster_id' => $cluster->id, 'name' => $fields->word('name') ?? $known->name ?? '', 'signal' => $signal->key ?? '',
            'watched' => $watched, 'side' => self::side($fields, $watched, $signal, $same),
        ]);
        self::place($alert, $fields, $signal, $same);
        self::levels($alert, $fields, $signal, $same);
        try {
            $alert->condition();
        } catch (InvalidArgumentException $error) {
            $fields->complaints['calm'] = $error->getMessage();
            $alert->calm = $alert->threshold;
        }

        return new self($alert, $signal, $fields->complaints, self::written($alert, $signal));
    }

    private static function signal(Cluster $cluster, AlertFields $fields, SignalSources $sources, ?Alert $known): ?Signal
    {
        $signals = $sources->of($cluster);
        $key = $fields->word('signal') ?? $known->signal ?? '';
        foreach ($signals as $one) {
            if ($one->key === $key) {
                return $one;
            }
        }
        if ($key !== '') {
            $fields->complaints['signal'] = "{$cluster->name} does not tell \"{$key}\". Choose one of what it tells.";
        }

        return $signals[0] ?? null;
    }

    private static function watched(AlertFields $fields, ?Signal $signal, ?Alert $same): Watched
    {
        $watched = Watched::tryFrom($fields->word('watched') ?? $same->watched->value ?? '') ?? Watched::Value;
        if ($watched !== Watched::DaysLeft || $signal?->isLimited === true) {
            return $watched;
        }
        $fields->complaints['watched'] = 'Days left are known of what is a share of a limit, as file systems that fill up.';

        return Watched::Value;
    }

    private static function side(AlertFields $fields, Watched $watched, ?Signal $signal, ?Alert $same): ThresholdSide
    {
        return match ($watched) {
            Watched::DaysLeft => ThresholdSide::Below,
            Watched::Silence => ThresholdSide::Above,
            default => ThresholdSide::tryFrom($fields->word('side') ?? $same->side->value ?? '') ?? $signal->side ?? ThresholdSide::Above,
        };
    }

    /** One host, any host, or a share of them. */
    private static function place(Alert $alert, AlertFields $fields, ?Signal $signal, ?Alert $same): void
    {
        $host = $fields->word('host') ?? (string) $same?->host;
        $share = $fields->has('share') || $fields->word('share') !== null ? $fields->number('share', 0.0, 1.0, 100.0) / 100
            : $same->share ?? 0.0;
        $isOfHosts = $signal?->isPerHost === true;
        $alert->host = $isOfHosts && $host !== '' ? mb_strcut($host, 0, 120) : null;
        $alert->share = $isOfHosts && $alert->host === null && $share > 0.0 ? $share : null;
    }

    private static function levels(Alert $alert, AlertFields $fields, ?Signal $signal, ?Alert $same): void
    {
        $watched = $alert->watched;
        $scale = AlertWords::scale($watched, $signal);
        $threshold = $fields->number('threshold', $same === null ? self::usual($watched, $signal) : $same->threshold / $scale);
        $usualCalm = match (true) {
            $same !== null && ! $fields->has('threshold') => $same->calm / $scale,
            $watched === Watched::Silence => $threshold,
            default => $threshold * self::CALM[$alert->side === ThresholdSide::Above ? 0 : 1],
        };
        $isLevel = $watched === Watched::Value || $watched === Watched::Usual;
        $minutes = static fn (string $name, ?int $seconds, float $usual): int => (int) round(60 * $fields->number($name,
            $seconds === null ? $usual : $seconds / 60, 0.0, self::MOST_MINUTES));
        $alert->fill([
            'threshold' => $threshold * $scale, 'calm' => $fields->number('calm', $usualCalm) * $scale,
            'for_seconds' => $minutes('for', $same?->for_seconds, $isLevel ? self::MINUTES : 0.0),
            'calm_seconds' => $minutes('quiet', $same?->calm_seconds, self::MINUTES),
        ]);
    }

    /**
     * @return array<string, string> as it stands in the form
     */
    private static function written(Alert $alert, ?Signal $signal): array
    {
        $scale = AlertWords::scale($alert->watched, $signal);
        $shown = AlertFields::shown(...);

        return [
            'signal' => $alert->signal, 'watched' => $alert->watched->value, 'side' => $alert->side->value,
            'threshold' => $shown($alert->threshold / $scale), 'calm' => $shown($alert->calm / $scale),
            'for' => $shown($alert->for_seconds / 60), 'quiet' => $shown($alert->calm_seconds / 60),
            'share' => $alert->share === null ? '' : $shown(100 * $alert->share), 'host' => (string) $alert->host,
        ];
    }

    private static function usual(Watched $watched, ?Signal $signal): float
    {
        return match ($watched) {
            Watched::Value => $signal->usual ?? 1.0,
            Watched::Usual => 2.0,
            Watched::DaysLeft => 30.0,
            Watched::Silence => 15.0,
        };
    }
}
