import { type PipeTransform } from '@nestjs/common';
import { faultsOf } from '@eager-sieve/core';
import { type z } from 'zod';
import { faulty } from './problem';

/** Reads a body or query by its contract; what is handed on is what the schema gives. */
export class Read<Schema extends z.ZodType> implements PipeTransform<unknown, z.infer<Schema>> {
  constructor(private readonly schema: Schema) {}

  transform(value: unknown): z.infer<Schema> {
    const read = this.schema.safeParse(value);
    if (read.success) return read.data;
    throw faulty(faultsOf(read.error));
  }
}
