<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling\Formats;

use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskState;

/**
 * Reads a span of OpenTelemetry traces in JSON (OTLP 1.x) as a task. Ids may be in hexadecimal, as the protocol says, or
 * in Base64, as libraries for protocol buffers write them.
 */
final readonly class SpanReader
{
    /** Attributes of a span that become fields of a task. */
    private const FIGURES = [
        'rows_read' => 'task.rows_read',
        'rows_written' => 'task.rows_written',
        'bytes_read' => 'task.bytes_read',
        'bytes_written' => 'task.bytes_written',
        'bytes_spilled' => 'task.bytes_spilled',
        'cpu_us' => 'task.cpu_us',
        'peak_bytes' => 'task.peak_bytes',
        'lost_us' => 'task.lost_us',
    ];

    private const WORKER = ['task.worker', 'worker.id', 'host.name', 'thread.name'];

    /**
     * @param  array<mixed>  $span
     */
    public static function id(array $span, string $field = 'spanId'): string
    {
        $id = $span[$field] ?? '';
        if (! is_string($id) || $id === '') {
            return '';
        }
        if (preg_match('~^(?:[0-9a-f]{16}|[0-9a-f]{32})$~Di', $id) === 1) {
            return strtolower($id);
        }
        $raw = base64_decode($id, true);

        return $raw === false ? '' : bin2hex($raw);
    }

    /**
     * @param  array<mixed>  $span
     */
    public static function name(array $span): string
    {
        $name = $span['name'] ?? '';

        return is_string($name) ? mb_strcut($name, 0, 190) : '';
    }

    /**
     * @param  array<mixed>  $span
     * @param  array<string, string|int>  $resource attributes of what sent it
     * @param  string  $stage name of the span it lies in; empty where that is the job
     */
    public function task(array $span, array $resource, string $stage, string $where): Task|JobProblem
    {
        $id = self::id($span);
        if ($id === '') {
            return new JobProblem(
                $where,
                'span',
                'spanId',
                'is neither 16 hexadecimal digits nor Base64 of eight bytes',
                'Send spans as OTLP JSON.',
                true,
            );
        }
        $times = [];
        foreach (['startTimeUnixNano', 'endTimeUnixNano'] as $field) {
            $us = self::microseconds($span[$field] ?? null);
            if ($us === null) {
                return new JobProblem($where, "span {$id}", $field, 'is no number of nanoseconds', 'Send it as text or number.', true);
            }
            $times[] = $us;
        }
        [$started, $ended] = $times;
        if ($ended > 0 && $ended < $started) {
            return new JobProblem(
                $where,
                "span {$id}",
                'endTimeUnixNano',
                'lies before startTimeUnixNano',
                'A span cannot take negative time; look at the clock of its worker and send it again.',
                true,
            );
        }
        $attributes = self::attributes($span['attributes'] ?? []) + $resource;
        $own = $attributes['task.stage'] ?? null;
        $attempts = $attributes['task.attempts'] ?? 1;
        $queued = self::microseconds($attributes['task.queued_unix_nano'] ?? null);

        return new Task(
            $id,
            is_string($own) && $own !== '' ? mb_strcut($own, 0, 190) : ($stage === '' ? self::name($span) : $stage),
            self::linked($span),
            null,
            $queued === null || $queued === 0 ? -1 : $queued,
            $started,
            $ended <= 0 ? -1 : $ended,
            self::worker($attributes),
            is_int($attempts) ? max(1, $attempts) : 1,
            $ended <= 0 ? TaskState::Running : (self::failed($span) ? TaskState::Failed : TaskState::Done),
            self::figures($attributes),
        );
    }

    /**
     * @param  array<string, mixed>  $attributes
     * @return array<string, int>
     */
    private static function figures(array $attributes): array
    {
        $figures = [];
        foreach (self::FIGURES as $figure => $attribute) {
            $value = $attributes[$attribute] ?? null;
            if (is_int($value) && $value >= 0) {
                $figures[$figure] = $value;
            }
        }

        return $figures;
    }

    /**
     * @param  array<string, string|int>  $attributes
     */
    private static function worker(array $attributes): string
    {
        foreach (self::WORKER as $attribute) {
            $worker = (string) ($attributes[$attribute] ?? '');
            if ($worker !== '') {
                return mb_strcut($worker, 0, 190);
            }
        }

        return '';
    }

    /**
     * @param  array<mixed>  $span
     */
    private static function failed(array $span): bool
    {
        $status = $span['status'] ?? [];
        $code = is_array($status) ? $status['code'] ?? 0 : 0;

        return $code === 2 || $code === 'STATUS_CODE_ERROR';
    }

    /**
     * @param  array<mixed>  $span
     * @return list<string>|null ids of the spans it waited for; null where it names none
     */
    private static function linked(array $span): ?array
    {
        $linked = [];
        foreach (is_array($span['links'] ?? null) ? $span['links'] : [] as $link) {
            $id = is_array($link) ? self::id($link) : '';
            if ($id !== '') {
                $linked[] = $id;
            }
        }

        return $linked === [] ? null : $linked;
    }

    /** Null for what is no number; 0 where it is not there. */
    public static function microseconds(mixed $nano): ?int
    {
        if ($nano === null || $nano === '') {
            return 0;
        }
        if (is_string($nano) && ctype_digit($nano) && strlen($nano) < 20) {
            return (int) substr($nano, 0, -3);
        }

        return is_int($nano) && $nano >= 0
            ? intdiv($nano, 1000)
            : (is_float($nano) && $nano >= 0 && $nano < 9e18
                ? (int) ($nano / 1000)
                : null);
    }

    /**
     * @return array<string, string|int>
     */
    public static function attributes(mixed $list): array
    {
        $attributes = [];
        foreach (is_array($list) ? $list : [] as $one) {
            $key = is_array($one) ? $one['key'] ?? null : null;
            $value = is_array($one) && is_array($one['value'] ?? null) ? $one['value'] : [];
            if (is_string($key)) {
                $whole = $value['intValue'] ?? null;
                $text = $value['stringValue'] ?? null;
                if (is_int($whole) || (is_string($whole) && preg_match('~^-?\d{1,18}$~D', $whole) === 1)) {
                    $attributes[$key] = (int) $whole;
                } elseif (is_string($text)) {
                    $attributes[$key] = $text;
                }
            }
        }

        return $attributes;
    }
}
