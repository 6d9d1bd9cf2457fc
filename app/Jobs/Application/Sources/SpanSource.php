<?php

declare(strict_types=1);

namespace App\Jobs\Application\Sources;

use Fulcrion\Core\Scheduling\Formats\JobDocument;
use Fulcrion\Core\Scheduling\Formats\SpanReader;
use Fulcrion\Core\Text\JsonStream;
use Generator;

/**
 * OpenTelemetry traces as OTLP JSON. A span in which others lie is no task: the one in no other is the job, those between
 * are stages. Who lies in whom, and what those are called, is read
 * before the tasks are: the file is read three times, and never held.
 */
final readonly class SpanSource implements JobSource
{
    private const SPANS = 'resourceSpans[].scopeSpans[].spans[]';

    private const OPEN = [
        '',
        'resourceSpans',
        'resourceSpans[]',
        'resourceSpans[].scopeSpans',
        'resourceSpans[].scopeSpans[]',
        'resourceSpans[].scopeSpans[].spans',
    ];

    public function items(PieceFile $file): Generator
    {
        $holders = [];
        foreach ((new JsonStream($file->piece(...), self::OPEN))->values() as $place => $value) {
            if ($place === self::SPANS && is_array($value)) {
                $parent = SpanReader::id($value, 'parentSpanId');
                if ($parent !== '') {
                    $holders[$parent] ??= '';
                }
            }
        }
        $file->again();
        $names = [];
        foreach ((new JsonStream($file->piece(...), self::OPEN))->values() as $place => $value) {
            if ($place === self::SPANS && is_array($value) && isset($holders[($id = SpanReader::id($value))])) {
                $names[$id] = SpanReader::id($value, 'parentSpanId') === '' ? '' : SpanReader::name($value);
            }
        }
        $file->again();
        $stream = new JsonStream($file->piece(...), self::OPEN);
        $reader = new SpanReader();
        $resource = [];
        foreach ($stream->values() as $place => $value) {
            if ($place === 'resourceSpans[].resource') {
                $resource = SpanReader::attributes(is_array($value) ? $value['attributes'] ?? [] : []);
            }
            if ($place !== self::SPANS || ! is_array($value)) {
                continue;
            }
            $id = SpanReader::id($value);
            if (isset($names[$id])) {
                if ($names[$id] === '') {
                    yield from $this->job($value, $resource);
                }

                continue;
            }
            yield $reader->task($value, $resource, $names[SpanReader::id($value, 'parentSpanId')] ?? '', 'line '.$stream->line());
        }
    }

    /**
     * @param  array<mixed>  $span
     * @param  array<string, string|int>  $resource
     * @return Generator<int, array{string, mixed}>
     */
    private function job(array $span, array $resource): Generator
    {
        $attributes = SpanReader::attributes($span['attributes'] ?? []) + $resource;
        $ended = SpanReader::microseconds($span['endTimeUnixNano'] ?? null) ?? 0;
        yield ['id', SpanReader::id($span, 'traceId')];
        yield ['name', SpanReader::name($span)];
        yield ['started_at', JobDocument::moment(SpanReader::microseconds($span['startTimeUnixNano'] ?? null) ?? -1)];
        if ($ended > 0) {
            yield ['ended_at', JobDocument::moment($ended)];
        }
        $status = is_array($span['status'] ?? null) ? $span['status']['code'] ?? 0 : 0;
        if ($ended > 0 && ($status === 2 || $status === 'STATUS_CODE_ERROR')) {
            yield ['state', 'failed'];
        }
        foreach (
            ['owner' => 'job.owner', 'script' => 'job.script', 'workers' => 'job.workers',
                'currency' => 'job.currency'] as $field => $attribute
        ) {
            if (isset($attributes[$attribute])) {
                yield [$field, $attributes[$attribute]];
            }
        }
        if (isset($attributes['job.worker_price']) && is_numeric($attributes['job.worker_price'])) {
            yield ['worker_price', (float) $attributes['job.worker_price']];
        }
    }
}
